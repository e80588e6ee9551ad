<script lang="ts" module>
  /** What a list of entries can show beside the title. */
  export const COLUMNS = ["type", "language", "rail", "planned", "changed", "author", "lacks"] as const;
  export type Column = (typeof COLUMNS)[number];
  const USUAL: readonly Column[] = ["type", "language", "rail", "changed", "author", "lacks"];
  /** The columns by which a list can be ordered, and how the order is called. */
  const SORTED: Partial<Record<Column | "title", string>> = { title: "title", changed: "changed" };

  /** The rows that are drawn of a long list, and how high what is above and below them is, in pixels. */
  export interface Part {
    from: number;
    to: number;
    above: number;
    below: number;
    measure: (row: HTMLElement) => void;
  }
</script>

<script lang="ts">
  import type { EntryLine } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Rail from "../../ui/Rail.svelte";
  import Table from "../../ui/Table.svelte";
  import ArrowDownOutline from "flowbite-svelte-icons/ArrowDownOutline.svelte";
  import ArrowUpOutline from "flowbite-svelte-icons/ArrowUpOutline.svelte";

  interface Props {
    lines: EntryLine[];
    label: string;
    columns?: readonly Column[];
    dense?: boolean;
    /** What is chosen, as id and locale; nothing can be chosen without it. */
    chosen?: Set<string>;
    onChoose?: (chosen: Set<string>) => void;
    /** The order: the name of one, backwards with a `-`; the heads cannot be pressed without it. */
    sort?: string;
    onSort?: (sort: string) => void;
    part?: Part;
  }
  let {
    lines,
    label,
    columns = USUAL,
    dense = false,
    chosen,
    onChoose,
    sort,
    onSort,
    part = { from: 0, to: lines.length, above: 0, below: 0, measure: () => undefined },
  }: Props = $props();
  const all = $derived(
    chosen !== undefined && lines.length > 0 && lines.every((line) => chosen.has(key(line))),
  );
  const has = $derived(new Set<string>(columns));
  /** The heads, and what stands under each: the language beside the type, who changed it below when. */
  const heads = $derived(
    (["title", "type", "rail", "planned", "changed"] as const).filter(
      (one) =>
        one === "title" ||
        has.has(one) ||
        (one === "type" && has.has("language")) ||
        (one === "changed" && has.has("author")),
    ),
  );
  const width = $derived(heads.length + (chosen ? 1 : 0));
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

  function order(name: string): "ascending" | "descending" | undefined {
    const now = sort || "-changed";
    return now === name ? "ascending" : now === `-${name}` ? "descending" : undefined;
  }
</script>

<Table pinned={chosen !== undefined} aria-label={label} aria-rowcount={lines.length + 1}>
  <thead
    class="hidden text-start text-sm text-moss md:table-header-group {chosen
      ? 'sticky top-0 z-10 bg-paper shadow-[0_1px_0_var(--line)]'
      : ''}"
  >
    <tr class="border-b" aria-rowindex={1}>
      {#if chosen}<th class="w-8 text-start"
          ><Checkbox
            aria-label={t("bulk.all")}
            checked={all}
            onchange={(event) =>
              onChoose?.(event.currentTarget.checked ? new Set(lines.map(key)) : new Set())}
          /></th
        >{/if}
      {#each heads as one (one)}
        {@const name = onSort ? SORTED[one] : undefined}
        {@const way = name ? order(name) : undefined}
        <th class="py-1 pe-4 text-start font-semibold" aria-sort={way ?? (name ? "none" : undefined)}>
          {#if name}
            <Button
              look="quiet"
              class="-ms-2 font-semibold"
              title={t("list.sortBy", { column: t(`list.head_${one}`) })}
              onclick={() =>
                onSort?.(way === "ascending" ? `-${name}` : way ? name : one === "title" ? name : `-${name}`)}
            >
              {t(`list.head_${one}`)}
              {#if way === "ascending"}<ArrowUpOutline class="size-4" aria-hidden={true} />
              {:else if way}<ArrowDownOutline class="size-4" aria-hidden={true} />{/if}
            </Button>
          {:else}{t(`list.head_${one}`)}{/if}
        </th>
      {/each}
    </tr>
  </thead>
  <tbody>
    {#if part.above}<tr aria-hidden="true"><td colspan={width} style:height="{part.above}px"></td></tr>{/if}
    {#each lines.slice(part.from, part.to) as line, n (line.id + line.locale)}
      {@const at = part.from + n}
      <tr
        data-index={at}
        aria-rowindex={at + 2}
        {@attach part.measure}
        class="border-b max-md:grid {chosen
          ? 'max-md:grid-cols-[auto_1fr] max-md:[&>td:nth-child(n+2)]:col-start-2'
          : ''} md:table-row {dense ? 'py-1' : 'py-2'} {chosen?.has(key(line)) ? 'bg-wash' : ''}"
      >
        {#if chosen}<td class="pe-2"
            ><Checkbox
              aria-label={t("bulk.choose", { title: line.title || t("list.untitled") })}
              checked={chosen.has(key(line))}
              onclick={(event) => choose(at, event.currentTarget.checked, event.shiftKey)}
            /></td
          >{/if}
        <td class="md:pe-4 {dense ? 'md:py-0.5' : 'md:py-2'}">
          <a
            class="font-serif font-semibold {dense ? '' : 'text-lg'}"
            href="/entries/{line.id}/{line.locale}"
            lang={line.locale}
            dir={session.locale(line.locale)?.rtl ? "rtl" : "ltr"}>{line.title || t("list.untitled")}</a
          >
          {#if line.internal}<span class="text-sm text-moss {dense ? 'ms-2' : 'block'}">{line.internal}</span
            >{/if}
          {#if has.has("lacks") && line.missing.length}
            <span class="text-sm text-straw {dense ? 'ms-2' : 'block'}">
              {t("list.missing", { what: line.missing.map((m) => m.label).join(", ") })}
            </span>
          {/if}
        </td>
        {#if heads.includes("type")}<td class="text-sm text-moss md:pe-4"
            >{[has.has("type") && line.type_label, has.has("language") && line.locale]
              .filter(Boolean)
              .join(", ")}</td
          >{/if}
        {#if has.has("rail")}<td class="md:pe-4"><Rail beads={line.rail} planned={line.planned} /></td>{/if}
        {#if has.has("planned")}<td class="text-sm text-slate md:pe-4"
            >{#each line.planned as one (one.dispatch)}<a class="block" href="/timetable/{one.dispatch}"
                >{when(one.instant)}</a
              >{/each}</td
          >{/if}
        {#if heads.includes("changed")}<td class="text-sm text-moss"
            >{#if has.has("changed")}{when(line.updated_at)}{/if}{#if has.has("author")}<span
                class={dense || !has.has("changed") ? "md:ms-2" : "block"}>{line.author}</span
              >{/if}</td
          >{/if}
      </tr>
    {/each}
    {#if part.below}<tr aria-hidden="true"><td colspan={width} style:height="{part.below}px"></td></tr>{/if}
  </tbody>
</Table>
