<script lang="ts">
  import { elsewhere } from "./wall";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { Dispatch } from "../../lib/api";
  import { day, t, when } from "../../lib/i18n";
  import { dispatchesQuery } from "./queries";
  import Button from "../../ui/Button.svelte";

  /** So many days back what has gone is shown. */
  let back = $state(60);
  const since = $derived(
    back > 3000 ? "" : new Date(Date.now() - back * 86_400_000).toISOString().slice(0, 10),
  );
  const found = dispatchesQuery(() => since);
  const planned = $derived(found.data?.items.filter((one) => one.state === "planned") ?? []);
  const past = $derived((found.data?.items.filter((one) => one.state !== "planned") ?? []).reverse());
  const mark: Record<string, string> = { planned: "text-slate", held: "text-straw", gone: "text-hedge" };
</script>

{#snippet list(items: Dispatch[])}
  <ol class="flex flex-col gap-2">
    {#each items as one (one.id)}
      <li class="sheet flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 py-3">
        <span class="w-40 font-semibold {mark[one.state] ?? 'text-moss'}">{when(one.instant)}</span>
        <a class="font-serif text-lg font-semibold" href="/timetable/{one.id}">{one.name}</a>
        <span class="text-sm text-moss"
          >{t(`timetable.state.${one.state}`)} · {t("timetable.moves", { count: one.moves.length })} · {t(
            "timetable.by",
            {
              by: one.by,
            },
          )}{elsewhere(one) ? ` · ${elsewhere(one)}` : ""}</span
        >
        {#if one.late_by_seconds}<span class="text-sm text-straw"
            >{t("timetable.late", { seconds: Math.round(one.late_by_seconds) })}</span
          >{/if}
      </li>
    {/each}
  </ol>
{/snippet}

<svelte:head><title>{t("timetable.title")} – {t("app.name")}</title></svelte:head>
<h1 class="pb-4 text-2xl font-semibold">{t("timetable.title")}</h1>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting />
{:else}
  <section class="pb-6" aria-labelledby="planned">
    <h2 id="planned" class="pb-2 text-lg font-semibold">{t("timetable.planned")}</h2>
    {#if planned.length}{@render list(planned)}{:else}<p class="text-moss">{t("timetable.none")}</p>{/if}
  </section>
  <section aria-labelledby="past">
    <h2 id="past" class="pb-2 text-lg font-semibold">{t("timetable.past")}</h2>
    {@render list(past)}
    {#if since}
      <p class="flex flex-wrap items-center gap-3 pt-3 text-moss">
        {t("timetable.since", { when: day(since) })}
        <Button onclick={() => (back *= 8)}>{t("timetable.earlier")}</Button>
      </p>
    {/if}
  </section>
{/if}
