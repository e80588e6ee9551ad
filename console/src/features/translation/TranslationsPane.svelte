<script lang="ts">
  import Runs from "../content/Runs.svelte";
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import CoverageCell from "./CoverageCell.svelte";
  import JobLineView from "./JobLineView.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure, type DueText, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { coverageQuery } from "./queries";
  import Button from "../../ui/Button.svelte";

  /** How an entry stands in the languages, what is due in this one with the words that changed since, and its jobs. */
  let { entry, onChange }: { entry: Entry; onChange: () => void } = $props();
  const found = coverageQuery(
    () => entry.id,
    () => entry.locale,
  );
  const queries = useQueryClient();
  const acting = new Acting(async () => {
    await queries.invalidateQueries({ queryKey: ["entry", entry.id, "coverage"] });
    onChange();
  });
  const mayWrite = $derived(entry.acts.some((one) => one.act === "save" && one.allowed));
  const due = $derived(found.data?.due ?? []);
  /** What can be said to fit: texts that are there. */
  const checkable = $derived(due.filter((one) => one.target || one.how === "gone"));

  function fits(some: DueText[]): void {
    void acting.do(() =>
      sure(
        api.POST("/api/entries/{id}/{locale}/still-fits", {
          params: { path: { id: entry.id, locale: entry.locale } },
          body: { fits: Object.fromEntries(some.map((one) => [one.key, one.hash])) },
        }),
      ),
    );
  }
</script>

{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting lines={3} />
{:else}
  {#if found.data.cells.length}
    <ul class="flex flex-col gap-1 pb-4">
      {#each found.data.cells as cell (cell.locale)}
        <li class={["flex gap-3", cell.locale === entry.locale && "font-semibold"]}>
          <span class="w-24 shrink-0" lang={cell.locale}>{session.locale(cell.locale)?.name}</span>
          <CoverageCell {cell} entry={entry.id} />
        </li>
      {/each}
    </ul>
  {/if}
  {#if due.length}
    <h3 class="pb-1 font-semibold">{t("coverage.dueHere", { count: due.length })}</h3>
    <p class="pb-2 text-sm text-moss">{t("coverage.dueAbout")}</p>
    {#if acting.error}<Trouble error={acting.error} />{/if}
    <ul class="flex flex-col gap-3 pb-3">
      {#each due as one (one.key)}
        <li class="border-s-2 border-s-straw ps-3">
          <p class="text-sm text-moss">{one.label} · {t(`coverage.how_${one.how}`)}</p>
          {#if one.runs.length}
            <p class="prose-text" lang={found.data.source_locale} dir="auto">
              <Runs runs={one.runs} />
            </p>
          {/if}
          {#if one.target}<p class="prose-text text-moss" lang={entry.locale} dir="auto">{one.target}</p>{/if}
          {#if mayWrite && (one.target || one.how === "gone")}
            <Button disabled={acting.busy} onclick={() => fits([one])}
              >{t(one.how === "gone" ? "coverage.keep" : "coverage.fits")}<span class="sr-only">
                {one.label}</span
              ></Button
            >
          {/if}
        </li>
      {/each}
    </ul>
    {#if mayWrite && checkable.length > 1}
      <Button class="mb-4" disabled={acting.busy} onclick={() => fits(checkable)}
        >{t("coverage.allFits", { count: checkable.length })}</Button
      >
    {/if}
  {/if}
  <h3 class="sr-only">{t("jobs.jobs")}</h3>
  <div class="flex flex-col gap-2">
    {#each entry.jobs as job (job.id)}<JobLineView {job} />{:else}<p class="text-moss">
        {t("jobs.none")}
      </p>{/each}
  </div>
{/if}
