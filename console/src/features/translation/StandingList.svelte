<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type StandingCommission } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { standingQuery } from "./queries";
  import StandingDialog from "./StandingDialog.svelte";

  /** What goes out for translation by itself, what waits for it, and when that goes. */
  const queries = useQueryClient();
  const found = standingQuery();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["standing-commissions"] }));
  let dialog = $state.raw<{ one: StandingCommission | null } | null>(null);
  const at = (one: StandingCommission) => ({ params: { path: { id: one.id } } });
  const names = (one: StandingCommission) =>
    one.targets
      .map((target) => {
        const who = target.bureau || target.person_name;
        const name = session.locale(target.locale)?.name ?? target.locale;
        return who ? `${name} (${who})` : name;
      })
      .join(", ");

  function send(one: StandingCommission): Promise<boolean> {
    return acting.do(async () => {
      const { entries } = await sure(api.POST("/api/standing-commissions/{id}/send", at(one)));
      await queries.invalidateQueries({ queryKey: ["commissions"] });
      toasts.say(t("standing.sent", { count: entries }));
    });
  }

  function switched(one: StandingCommission): Promise<boolean> {
    const body = { on: one.state !== "on" };
    return acting.do(() => sure(api.PATCH("/api/standing-commissions/{id}", { ...at(one), body })));
  }

  function end(one: StandingCommission): void {
    if (!confirm(t("standing.sure", { name: one.name }))) return;
    void acting.do(() => sure(api.DELETE("/api/standing-commissions/{id}", at(one))));
  }
</script>

<section class="pt-6" aria-label={t("standing.title")}>
  <div class="flex flex-wrap items-center gap-3 pb-1">
    <h2 class="text-lg font-semibold">{t("standing.title")}</h2>
    <Button class="ms-auto" onclick={() => (dialog = { one: null })}>{t("standing.new")}</Button>
  </div>
  <p class="max-w-3xl pb-3 text-sm text-moss">{t("standing.about")}</p>
  {#if acting.error}<Trouble error={acting.error} />{/if}
  {#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
  {:else if !found.data}<Waiting lines={2} />
  {:else}
    <ul class="flex flex-col gap-2">
      {#each found.data.items as one (one.id)}
        <li class="sheet flex flex-col gap-2 px-4 py-3">
          <div>
            <p class="flex flex-wrap items-baseline gap-x-3">
              <span class="font-semibold">{one.name}</span>
              <span class={one.state === "on" ? "text-hedge" : "text-moss"}
                >{t(`standing.state_${one.state}`)}</span
              >
              <span>{one.section_title || t("standing.everything")} → {names(one)}</span>
            </p>
            <p class="text-sm text-moss">
              {t(`standing.when_${one.sends}`, { count: one.pause })} · {t("standing.bySelf", {
                by: one.by,
                count: one.sent,
              })}
            </p>
            {#if one.waiting}<p class="text-sm">
                {t("standing.waiting", { count: one.waiting })}{#if one.next}, {t("standing.next", {
                    at: when(one.next),
                  })}{/if}
              </p>{/if}
            {#if one.trouble}<p class="text-sm font-semibold">{one.trouble}</p>{/if}
          </div>
          {#if one.may_change}<div class="flex flex-wrap gap-2">
              {#if one.waiting && one.state === "on"}<Button disabled={acting.busy} onclick={() => send(one)}
                  >{t("standing.sendNow")}<span class="sr-only"> {one.name}</span></Button
                >{/if}
              <Button onclick={() => (dialog = { one })}
                >{t("standing.changeIt")}<span class="sr-only"> {one.name}</span></Button
              >
              <Button disabled={acting.busy} onclick={() => switched(one)}
                >{t(one.state === "on" ? "standing.off" : "standing.on")}<span class="sr-only">
                  {one.name}</span
                ></Button
              >
              <Button disabled={acting.busy} onclick={() => end(one)}
                >{t("standing.end")}<span class="sr-only"> {one.name}</span></Button
              >
            </div>{/if}
        </li>
      {:else}<li class="text-moss">{t("standing.none")}</li>{/each}
    </ul>
    {#if dialog}<StandingDialog
        changing={dialog.one}
        translators={found.data.translators}
        onClose={() => (dialog = null)}
        onDone={() => queries.invalidateQueries({ queryKey: ["standing-commissions"] })}
      />{/if}
  {/if}
</section>
