<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import CoverageCell from "./CoverageCell.svelte";
  import CoverageTotals from "./CoverageTotals.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { GridLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import { session } from "../../lib/state/session.svelte";
  import { peopleQuery } from "../access/queries";
  import { BLANK, gridQuery, STATES, totalsQuery, type GridAsked } from "./queries";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import DateField from "../../ui/DateField.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Table from "../../ui/Table.svelte";

  let asked = $state<GridAsked>({ ...BLANK });
  let many = $state(1);
  const grid = gridQuery(
    () => asked,
    () => many,
  );
  const totals = totalsQuery(() => asked);
  const people = peopleQuery();
  const queries = useQueryClient();
  const locales = $derived(session.setup?.locales ?? []);
  /** The cells that are chosen, each an entry and a locale. */
  let chosen = $state<string[]>([]);
  let sending = $state(false);
  let wanted = $state(false);
  let collecting = $state(false);
  const lines = $derived(grid.data?.items ?? []);
  const entries = $derived(lines.filter((line) => chosen.some((key) => key.startsWith(line.id))));
  const into = $derived([...new Set(chosen.map((key) => key.split(" ")[1]!))]);
  const narrowed = $derived(Object.values(asked).some(Boolean));

  const key = (line: GridLine, locale: string) => `${line.id} ${locale}`;
  const mayChoose = $derived(session.may("commission"));

  function open(locale: string, state: string): void {
    asked = { ...asked, locale, state: state as GridAsked["state"] };
    many = 1;
  }
</script>

<form class="flex flex-wrap items-baseline gap-x-2 gap-y-2 pb-4" onsubmit={(event) => event.preventDefault()}>
  <span>{t("coverage.show")}</span>
  <Select inline aria-label={t("coverage.type")} bind:value={asked.type}>
    <option value="">{t("coverage.anyType")}</option>
    {#each session.setup?.types ?? [] as type (type.name)}<option value={type.name}>{type.label}</option
      >{/each}
  </Select>
  <span>{t("coverage.which")}</span>
  <Select inline aria-label={t("coverage.stateHead")} bind:value={asked.state}>
    <option value="">{t("coverage.anyState")}</option>
    {#each STATES as state (state)}<option value={state}>{t(`coverage.state.${state}`)}</option>{/each}
  </Select>
  <span>{t("coverage.in")}</span>
  <Select inline aria-label={t("coverage.language")} bind:value={asked.locale}>
    <option value="">{t("coverage.anyLanguage")}</option>
    {#each locales as one (one.tag)}<option value={one.tag}>{one.name}</option>{/each}
  </Select>
  <span>{t("coverage.by")}</span>
  <Select inline aria-label={t("coverage.owner")} bind:value={asked.owner}>
    <option value="">{t("coverage.anyone")}</option>
    {#each people.data?.items ?? [] as person (person.handle)}<option value={person.handle}
        >{person.name}</option
      >{/each}
  </Select>
  <Input
    class="max-w-56!"
    type="search"
    placeholder={t("coverage.find")}
    aria-label={t("coverage.find")}
    bind:value={asked.words}
  />
  <DateField label={t("coverage.dueUntil")} bind:value={asked.due} />
  {#if narrowed}<Button look="quiet" class="px-2 text-hedge" onclick={() => (asked = { ...BLANK })}
      >{t("coverage.all")}</Button
    >{/if}
</form>
{#if totals.error}<Trouble error={totals.error} again={() => totals.refetch()} />
{:else if !totals.data}<Waiting lines={4} />
{:else}<CoverageTotals totals={totals.data.locales} onOpen={open} />{/if}
{#if chosen.length}
  <div class="sheet sticky top-2 z-10 mt-4 flex flex-wrap items-center gap-3 px-4 py-2" role="status">
    <span class="flex-1"
      >{t("coverage.chosen", {
        count: entries.length,
        languages: into.map((tag) => session.locale(tag)?.name ?? tag).join(", "),
      })}</span
    >
    <Button look="main" onclick={() => (sending = wanted = true)}>{t("coverage.translate")}</Button>
    <Button onclick={() => (collecting = true)}>{t("more.collect")}</Button>
    <Button onclick={() => (chosen = [])}>{t("coverage.none")}</Button>
  </div>
{/if}
<h2 class="pt-6 pb-2 text-lg font-semibold">{t("coverage.grid")}</h2>
{#if grid.error}
  <Trouble error={grid.error} again={() => grid.refetch()} />
{:else if !grid.data}
  <Waiting lines={6} />
{:else if !lines.length}
  <p class="text-moss">{t(narrowed ? "coverage.nothingFits" : "coverage.nothing")}</p>
{:else}
  <div class="overflow-x-auto">
    <Table class="w-full" aria-label={t("coverage.grid")}>
      <thead>
        <tr class="border-b text-sm text-moss">
          <th class="py-1 text-start">{t("coverage.entry")}</th>
          {#each locales as one (one.tag)}<th class="px-2 text-start" lang={one.tag}>{one.name}</th>{/each}
        </tr>
      </thead>
      <tbody>
        {#each lines as line (line.id)}
          <tr class="border-b align-top">
            <th scope="row" class="min-w-48 py-2 pe-3 text-start font-normal"
              ><a href="/entries/{line.id}/{line.source_locale}">{line.title}</a></th
            >
            {#each locales as one (one.tag)}
              {@const cell = line.cells.find((cell) => cell.locale === one.tag)}
              <td class="px-2 py-2">
                {#if cell}
                  <span class="flex items-start gap-2">
                    {#if mayChoose}<Checkbox
                        class="mt-1"
                        aria-label={t("coverage.choose", { title: line.title, language: one.name })}
                        disabled={!cell.due}
                        checked={chosen.includes(key(line, one.tag))}
                        onchange={() => (chosen = toggled(chosen, key(line, one.tag)))}
                      />{/if}
                    <CoverageCell {cell} entry={line.id} />
                  </span>
                {:else}<span class="text-sm text-moss">{t("coverage.source", { count: line.units })}</span
                  >{/if}
              </td>
            {/each}
          </tr>
        {/each}
      </tbody>
    </Table>
  </div>
  {#if grid.data.next}<Button class="mt-2" onclick={() => many++}>{t("jobs.moreEntries")}</Button>{/if}
{/if}
{#if collecting}{#await import("./CollectDialog.svelte") then part}<part.default
      entries={entries.map((entry) => entry.id)}
      onClose={() => (collecting = false)}
      onDone={() => (chosen = [])}
    />{/await}{/if}
{#if wanted}{#await import("./CommissionDialog.svelte") then part}<part.default
      bind:open={sending}
      {entries}
      first={into}
      onDone={() => {
        chosen = [];
        void queries.invalidateQueries();
      }}
    />{/await}{/if}
