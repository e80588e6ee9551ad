<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type CommissionChange } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import CommissionEstimate from "./CommissionEstimate.svelte";
  import CommissionSettings from "./CommissionSettings.svelte";
  import JobLineView from "./JobLineView.svelte";
  import { commissionQuery } from "./queries";

  /** A commission: while it is open, what is in it, how it goes out, and what it would cost; then its jobs. */
  const id = $derived(String(route.params.id));
  const found = commissionQuery(() => id);
  const queries = useQueryClient();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["commissions"] }));
  const one = $derived(found.data);
  /** Whether something is in the way of sending it, as far as it is counted. */
  let held = $state(false);
  const path = $derived({ params: { path: { id } } });

  function change(body: CommissionChange): Promise<boolean> {
    return acting.do(() => sure(api.PATCH("/api/commissions/{id}", { ...path, body })));
  }

  function remove(entry: string, title: string): void {
    void acting
      .do(() => sure(api.POST("/api/commissions/{id}/take-out", { ...path, body: { entries: [entry] } })))
      .then((done) => {
        if (!done) return;
        toasts.offer(t("commissions.removed", { title }), t("commissions.putBack"), () => {
          const body = { entries: [entry], below: false, linked: false };
          void acting.do(() => sure(api.POST("/api/commissions/{id}/entries", { ...path, body })));
        });
      });
  }

  function send(): void {
    void acting
      .do(() => sure(api.POST("/api/commissions/{id}/send", path)))
      .then((done) => done && toasts.say(t("commissions.sent")));
  }

  function cancel(): void {
    void acting
      .do(() => sure(api.POST("/api/commissions/{id}/cancel", path)))
      .then((done) => done && toasts.offer(t("commissions.cancelled"), t("commissions.reopen"), reopen));
  }

  function reopen(): void {
    void acting.do(() => sure(api.POST("/api/commissions/{id}/reopen", path)));
  }
</script>

<svelte:head><title>{one?.name ?? t("commissions.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/translation">{t("jobs.title")}</a></p>
{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !one}<Waiting lines={6} />
{:else}
  <div class="flex flex-wrap items-baseline gap-x-3 gap-y-2 pb-4">
    <h1 class="text-2xl font-semibold">{one.name}</h1>
    <span class="text-moss"
      >{t(`commissions.state_${one.state}`)} · {t("commissions.begun", {
        by: one.by,
        at: when(one.at),
      })}{one.sent_at ? ` · ${t("commissions.sentAt", { at: when(one.sent_at) })}` : ""}</span
    >
    <span class="ms-auto flex gap-2">
      {#if one.acts.includes("reopen")}
        <Button onclick={reopen} disabled={acting.busy}>{t("commissions.reopen")}</Button>
      {/if}
      {#if one.acts.includes("cancel")}
        <Button onclick={cancel} disabled={acting.busy}
          >{t(one.state === "open" ? "commissions.cancel" : "commissions.cancelAll")}</Button
        >
      {/if}
      {#if one.may_change}
        <Button
          look={held ? "plain" : "main"}
          onclick={send}
          disabled={acting.busy || !one.acts.includes("send")}>{t("commissions.send")}</Button
        >
      {/if}
    </span>
  </div>
  {#if acting.error}<Trouble error={acting.error} />{/if}
  {#if one.job_lines.length}
    <h2 class="pb-2 text-lg font-semibold">{t("jobs.jobs")}</h2>
    <div class="flex flex-col gap-2 pb-6">
      {#each one.job_lines as job (job.id)}<JobLineView {job} />{/each}
    </div>
  {/if}
  <div class="grid gap-6 lg:grid-cols-2">
    <section aria-label={t("commissions.content")}>
      <h2 class="pb-2 text-lg font-semibold">{t("commissions.content")}</h2>
      <ul class="flex flex-col">
        {#each one.content as entry (entry.id)}
          <li class="flex items-baseline gap-3 border-b py-1.5">
            <a
              class={["flex-1", !entry.goes && "line-through"]}
              href="/entries/{entry.id}/{entry.source_locale}">{entry.title}</a
            >
            <span class="text-sm text-moss">{entry.goes ? entry.by : t("commissions.isGone")}</span>
            {#if one.may_change}
              <Button look="quiet" disabled={acting.busy} onclick={() => remove(entry.id, entry.title)}
                >{t("commissions.takeOut")}<span class="sr-only"> {entry.title}</span></Button
              >
            {/if}
          </li>
        {:else}<li class="text-moss">{t("commissions.empty")}</li>{/each}
      </ul>
    </section>
    <CommissionSettings commission={one} busy={acting.busy} onChange={change} />
  </div>
  {#if one.state === "open" && one.targets.length && one.content.length}<CommissionEstimate
      commission={one}
      bind:held
    />{/if}
{/if}
