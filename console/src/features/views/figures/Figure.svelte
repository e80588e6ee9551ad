<script lang="ts">
  import "../../../messages/figures";
  import type { Snippet } from "svelte";
  import { day, t } from "../../../lib/i18n";
  import Button from "../../../ui/Button.svelte";
  import Table from "../../../ui/Table.svelte";
  import Trouble from "../../../ui/Trouble.svelte";
  import { span, step, type Series } from "./series";

  /** A figure over weeks: drawn, or as a table, in which each number leads to what it stands for. */
  interface Props {
    id: string;
    title: string;
    about: string;
    kind: "line" | "bar";
    weeks: string[];
    series: Series[];
    said: (value: number | null | undefined) => string;
    /** What is said besides. */
    children?: Snippet;
  }
  let { id, title, about, kind, weeks, series, said, children }: Props = $props();
  let asTable = $state(false);
  const empty = $derived(!series.some((one) => one.values.some((value) => value)));
  const chart = import("./Chart.svelte");
  /** Of how many there are none; how long something took may well be no time at all. */
  const leads = (value: number | null | undefined) =>
    value !== null && value !== undefined && (value > 0 || said === span);
  const days = $derived(weeks.map(day));
</script>

<section class="sheet flex min-w-0 flex-col gap-2 p-4" aria-labelledby={id}>
  <div class="flex flex-wrap items-baseline gap-x-3">
    <h2 {id} class="me-auto text-lg font-semibold">{title}</h2>
    {#if !empty}
      <Button look="link" class="text-sm" aria-pressed={asTable} onclick={() => (asTable = !asTable)}
        >{t(asTable ? "figures.drawn" : "figures.asTable")}<span class="sr-only"> {title}</span></Button
      >
    {/if}
  </div>
  <p class="text-sm text-moss">{about}</p>
  {#if empty}
    <p class="py-6 text-moss">{t("figures.none")}</p>
  {:else if asTable}
    <Table class="text-sm" aria-labelledby={id}>
      <thead>
        <tr class="border-b text-start text-moss">
          <th scope="col" class="py-1 pe-4 text-start font-normal">{t("figures.week")}</th>
          {#each series as one (one.name)}<th scope="col" class="py-1 pe-4 text-end font-normal"
              >{one.name}</th
            >{/each}
        </tr>
      </thead>
      <tbody>
        {#each weeks as week, n (week)}
          <tr class="border-b last:border-0">
            <th scope="row" class="py-1 pe-4 text-start font-normal whitespace-nowrap">{days[n]}</th>
            {#each series as one (one.name)}
              <td class="py-1 pe-4 text-end tabular-nums">
                {#if one.onChoose && leads(one.values[n])}<Button
                    look="link"
                    onclick={() => one.onChoose?.(n)}
                    >{said(one.values[n])}<span class="sr-only"> {one.name}, {days[n]}</span></Button
                  >{:else}{said(one.values[n])}{/if}
              </td>
            {/each}
          </tr>
        {/each}
      </tbody>
    </Table>
  {:else}
    {#await chart}<div class="h-56" role="status">{t("app.loading")}</div>
    {:then loaded}
      <loaded.default
        {kind}
        label={t("figures.drawing", { title })}
        weeks={days}
        {series}
        {said}
        step={said === span ? step(series) : undefined}
        onChoose={(week, one) => series[one]?.onChoose?.(week)}
      />
    {:catch error}<Trouble {error} />{/await}
  {/if}
  {@render children?.()}
</section>
