<script lang="ts">
  import "../../messages/exchange";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type SetupDifference } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import FileInput from "../../ui/FileInput.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** Set-up as a document: fetched, and one from another house put in place after what it changes was seen. */
  const queries = useQueryClient();
  const acting = new Acting(() => Promise.resolve());
  let given = $state.raw<Record<string, unknown> | null>(null);
  let found = $state.raw<SetupDifference[] | null>(null);
  const changing = $derived((found ?? []).filter((one) => one.how !== "only here"));
  const blocked = $derived(changing.some((one) => one.how === "in the way"));

  const body = () => given as never;

  async function look(event: Event): Promise<void> {
    const input = event.currentTarget as HTMLInputElement;
    const file = input.files?.[0];
    if (!file) return;
    found = null;
    await acting.do(async () => {
      given = JSON.parse(await file.text());
      found = (await sure(api.POST("/api/setup/document/check", { body: body() }))).items;
    });
    // So that the same file can be chosen again, once it was mended.
    input.value = "";
  }

  async function apply(): Promise<void> {
    const worked = await acting.do(() => sure(api.PUT("/api/setup/document", { body: body() })));
    if (!worked) return;
    found = null;
    toasts.say(t("exchange.applied"));
    await queries.invalidateQueries();
  }

  const short = (value: unknown) => {
    const text = value === null || value === undefined ? "–" : JSON.stringify(value);
    return text.length > 60 ? `${text.slice(0, 59)}…` : text;
  };
</script>

<section class="sheet flex flex-col gap-3 p-4" aria-labelledby="set-up-file">
  <h2 id="set-up-file" class="text-lg font-semibold">{t("exchange.setUp")}</h2>
  <p class="text-sm text-moss">{t("exchange.setUpAbout")}</p>
  <div class="flex flex-wrap items-center gap-3">
    <a href="/api/setup/document" download="set-up.json">{t("exchange.setUpFetch")}</a>
    <FileInput accept="application/json,.json" disabled={acting.busy} onchange={look}
      >{t("exchange.setUpCompare")}</FileInput
    >
  </div>
  {#if acting.error}<Trouble error={acting.error} />{/if}
  {#if found}
    <p role="status">
      {changing.length ? t("exchange.differences", { count: changing.length }) : t("exchange.same")}
    </p>
    <ul class="flex flex-col gap-2 text-sm" aria-label={t("exchange.setUp")}>
      {#each changing as one (`${one.part}/${one.name}`)}
        <li>
          <span class="font-semibold">{one.part} {one.name}</span>
          <span class="text-moss">{t(`exchange.how.${one.how}`)}</span>
          {#if one.why}<p class="border-s-4 border-s-straw ps-3">{one.why}</p>{/if}
          {#if one.how === "changed"}
            <ul class="list-disc ps-5 text-moss">
              {#each one.members as member (member.path)}<li>
                  <code>{member.path}</code>: {short(member.before)} → {short(member.after)}
                </li>{/each}
            </ul>
          {/if}
          {#each one.effects as effect, n (n)}<p>{effect}</p>{/each}
        </li>
      {/each}
    </ul>
    {#if changing.length && !blocked}
      <Button look="main" class="self-start" disabled={acting.busy} onclick={apply}
        >{t("exchange.apply")}</Button
      >
    {/if}
  {/if}
</section>
