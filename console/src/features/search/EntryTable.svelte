<script lang="ts">
  import Rail from "../../ui/Rail.svelte";
  import type { EntryLine } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Table from "../../ui/Table.svelte";

  interface Props {
    lines: EntryLine[];
    label: string;
    /** What is chosen, as id and locale; nothing can be chosen without it. */
    chosen?: Set<string>;
    onChoose?: (chosen: Set<string>) => void;
  }
  let { lines, label, chosen, onChoose }: Props = $props();
  const all = $derived(
    chosen !== undefined && lines.length > 0 && lines.every((line) => chosen.has(key(line))),
  );
  let last = $state(-1);

  function key(line: EntryLine): string {
    return `${line.id}/${line.locale}`;
  }

  function choose(at: number, on: boolean, through: boolean): void {
    // eslint-disable-next-line svelte/prefer-svelte-reactivity -- a new set is handed on; nothing watches this one
    const next = new Set(chosen);
    const from = through && last >= 0 ? last : at;
    for (const line of lines.slice(Math.min(from, at), Math.max(from, at) + 1)) {
      if (on) next.add(key(line));
      else next.delete(key(line));
    }
    last = at;
    onChoose?.(next);
  }
</script>

<Table class="w-full border-collapse" aria-label={label}>
  <thead class="hidden text-start text-sm text-moss md:table-header-group">
    <tr class="border-b">
      {#if chosen}<th class="w-8 text-start"
          ><Checkbox
            aria-label={t("bulk.all")}
            checked={all}
            onchange={(event) =>
              onChoose?.(event.currentTarget.checked ? new Set(lines.map(key)) : new Set())}
          /></th
        >{/if}
      <th class="py-1 text-start font-semibold">{t("list.entry")}</th>
      <th class="text-start font-semibold">{t("list.type")}</th>
      <th class="text-start font-semibold">{t("list.rail")}</th>
      <th class="text-start font-semibold">{t("list.changed")}</th>
    </tr>
  </thead>
  <tbody>
    {#each lines as line, n (line.id + line.locale)}
      <tr class="flex flex-col border-b py-2 md:table-row {chosen?.has(key(line)) ? 'bg-wash' : ''}">
        {#if chosen}<td class="pe-2"
            ><Checkbox
              aria-label={t("bulk.choose", { title: line.title || t("list.untitled") })}
              checked={chosen.has(key(line))}
              onclick={(event) => choose(n, event.currentTarget.checked, event.shiftKey)}
            /></td
          >{/if}
        <td class="md:py-2 md:pe-4">
          <a
            class="font-serif text-lg font-semibold"
            href="/entries/{line.id}/{line.locale}"
            lang={line.locale}
            dir={session.locale(line.locale)?.rtl ? "rtl" : "ltr"}>{line.title || t("list.untitled")}</a
          >
          {#if line.internal}<p class="text-sm text-moss">{line.internal}</p>{/if}
          {#if line.missing.length}
            <p class="text-sm text-straw">
              {t("list.missing", { what: line.missing.map((m) => m.label).join(", ") })}
            </p>
          {/if}
        </td>
        <td class="text-sm text-moss md:pe-4 md:whitespace-nowrap">{line.type_label}, {line.locale}</td>
        <td class="md:pe-4"><Rail beads={line.rail} planned={line.planned} /></td>
        <td class="text-sm text-moss md:whitespace-nowrap">{when(line.updated_at)}<br />{line.author}</td>
      </tr>
    {/each}
  </tbody>
</Table>
