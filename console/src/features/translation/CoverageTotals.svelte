<script lang="ts">
  import "../../messages/translation";
  import type { CoverageTotal } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Button from "../../ui/Button.svelte";
  import Progress from "../../ui/Progress.svelte";
  import Table from "../../ui/Table.svelte";

  /** How much is translated, by language; each number leads to the entries behind it. */
  let { totals, onOpen }: { totals: CoverageTotal[]; onOpen: (locale: string, state: string) => void } =
    $props();
  const states = $derived(Object.keys(totals[0]?.states ?? {}));
  const share = (part: number, whole: number) => (whole ? Math.floor((100 * part) / whole) : 0);
</script>

<Table class="w-full" aria-label={t("coverage.totals")}>
  <thead class="max-md:sr-only">
    <tr class="border-b text-sm text-moss">
      <th class="py-1 pe-3 text-start">{t("coverage.language")}</th>
      <th class="pe-3 text-start">{t("coverage.words")}</th>
      {#each states as state (state)}<th class="pe-3 text-end">{t(`coverage.state.${state}`)}</th>{/each}
    </tr>
  </thead>
  <tbody>
    {#each totals.filter((one) => one.entries) as one (one.locale)}
      {@const percent = share(one.words_current, one.words)}
      <tr class="border-b max-md:flex max-md:flex-wrap max-md:gap-x-3 max-md:py-2">
        <th scope="row" class="py-1.5 pe-3 text-start font-semibold max-md:w-full" lang={one.locale}
          >{one.name}</th
        >
        <td class="min-w-48 pe-3 max-md:w-full">
          <Progress value={percent} label={t("coverage.share", { name: one.name, percent })} />
          <span class="text-sm text-moss"
            >{t("coverage.sum", { percent, current: one.words_current, words: one.words })}</span
          >
        </td>
        {#each states as state (state)}
          {@const count = one.states[state] ?? 0}
          <td class="pe-3 text-end">
            {#if count}<Button look="link" onclick={() => onOpen(one.locale, state)}
                >{count}<span class="ms-1 md:sr-only">{t(`coverage.state.${state}`)}</span><span
                  class="sr-only"
                >
                  – {one.name}</span
                ></Button
              >{:else}<span class="text-moss max-md:hidden">0</span>{/if}
          </td>
        {/each}
      </tr>
    {/each}
  </tbody>
</Table>
