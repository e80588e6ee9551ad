<script lang="ts">
  import "../../messages/translation";
  import JobLineView from "./JobLineView.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { t } from "../../lib/i18n";
  import { gridQuery, jobsQuery } from "./queries";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Table from "../../ui/Table.svelte";

  let jobPages = $state(1);
  let gridPages = $state(1);
  const jobs = jobsQuery(() => jobPages);
  const grid = gridQuery(() => gridPages);
  const marks: Record<string, string> = {
    "not there": "–",
    "in translation": "…",
    behind: "◐",
    ready: "○",
    out: "●",
  };
  const colour: Record<string, string> = {
    behind: "text-straw",
    out: "text-hedge",
    "in translation": "text-slate",
  };
</script>

<svelte:head><title>{t("jobs.title")} – {t("app.name")}</title></svelte:head>
<h1 class="pb-4 text-2xl font-semibold">{t("jobs.title")}</h1>
<section class="pb-6" aria-labelledby="jobs">
  <h2 id="jobs" class="pb-2 text-lg font-semibold">{t("jobs.jobs")}</h2>
  {#if jobs.error}
    <Trouble error={jobs.error} again={() => jobs.refetch()} />
  {:else if !jobs.data}
    <Waiting lines={3} />
  {:else}
    <div class="flex flex-col gap-2">
      {#each jobs.data.items as job (job.id)}<JobLineView {job} />{:else}<p class="text-moss">
          {t("jobs.none")}
        </p>{/each}
    </div>
    {#if jobs.data.next}<Button class="mt-2" onclick={() => jobPages++}>{t("jobs.more")}</Button>{/if}
  {/if}
</section>
<section aria-labelledby="grid">
  <h2 id="grid" class="pb-2 text-lg font-semibold">{t("jobs.grid")}</h2>
  {#if grid.error}
    <Trouble error={grid.error} again={() => grid.refetch()} />
  {:else if !grid.data}
    <Waiting lines={6} />
  {:else}
    <div class="overflow-x-auto">
      <Table class="w-full">
        <thead>
          <tr class="border-b text-sm text-moss">
            <th class="py-1 text-start">{t("jobs.entry")}</th>
            {#each grid.data.items[0]?.cells ?? [] as cell (cell.locale)}
              <th class="px-2 text-start" lang={cell.locale}>{session.locale(cell.locale)?.name}</th>
            {/each}
          </tr>
        </thead>
        <tbody>
          {#each grid.data.items as line (line.id)}
            <tr class="border-b">
              <th scope="row" class="py-1.5 pe-3 text-start font-normal"
                ><a href="/entries/{line.id}/{line.source_locale}">{line.title}</a></th
              >
              {#each line.cells as cell (cell.locale)}
                <td class="px-2">
                  <a
                    class="whitespace-nowrap {colour[cell.state] ?? 'text-moss'}"
                    href="/entries/{line.id}/{cell.locale}"
                    ><span aria-hidden="true">{marks[cell.state]}</span>
                    <span class="max-md:sr-only">{t(`jobs.cell.${cell.state}`)}</span></a
                  >
                </td>
              {/each}
            </tr>
          {/each}
        </tbody>
      </Table>
    </div>
    {#if grid.data.next}<Button class="mt-2" onclick={() => gridPages++}>{t("jobs.moreEntries")}</Button>{/if}
  {/if}
</section>
