<script lang="ts">
  import { tick } from "svelte";
  import { t } from "../../../lib/i18n";
  import { toasts } from "../../../lib/state/toasts.svelte";
  import { copied, fitting, fresh, moved, opening, type Block } from "./blocks";
  import Members from "./Members.svelte";
  import type { FieldProps } from "./props";
  import Button from "../../../ui/Button.svelte";
  import Handle from "../../../ui/Handle.svelte";
  import Sortable from "../../../ui/Sortable.svelte";
  import Select from "../../../ui/Select.svelte";
  import ArrowDownOutline from "flowbite-svelte-icons/ArrowDownOutline.svelte";
  import ArrowUpOutline from "flowbite-svelte-icons/ArrowUpOutline.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import FileCopyOutline from "flowbite-svelte-icons/FileCopyOutline.svelte";
  import PlusOutline from "flowbite-svelte-icons/PlusOutline.svelte";
  import ChevronRightOutline from "flowbite-svelte-icons/ChevronRightOutline.svelte";
  import ChevronDownOutline from "flowbite-svelte-icons/ChevronDownOutline.svelte";

  let { spec, entry, value, readonly, onType, id, version }: FieldProps = $props();
  const items = $derived((value as Block[] | null | undefined) ?? []);
  const turns = $derived(!readonly && spec.kind === "blocks" && (spec.blocks?.length ?? 0) > 1);
  const full = $derived(spec.limit != null && items.length >= spec.limit);
  let folded = $state<Record<string, boolean>>({});
  let said = $state("");
  let list = $state<HTMLOListElement>();

  function form(block: Block) {
    return spec.kind === "blocks"
      ? spec.blocks?.find((one) => one.name === block.kind)
      : { label: spec.label, fields: spec.fields ?? [], help: "" };
  }

  function put(next: Block[]): void {
    onType(next.length ? next : null);
  }

  function change(at: number, fields: Record<string, unknown>): void {
    put(items.map((one, n) => (n === at ? { ...one, fields } : one)));
  }

  async function add(at: number, block: Block): Promise<void> {
    put([...items.slice(0, at), block, ...items.slice(at)]);
    await tick();
    // What is typed meanwhile must not press the button again.
    list?.focus();
    focusIn(block.id);
  }

  /** Put the cursor into a block; its text editor may still be on its way. */
  function focusIn(id: string, patience = 40): void {
    const first = list?.querySelector<HTMLElement>(
      `[data-block="${id}"] :is(input, textarea, select:not([data-head]), [contenteditable="true"]):not(.hidden *)`,
    );
    if (first) first.focus();
    else if (patience && list) setTimeout(() => focusIn(id, patience - 1), 50);
  }

  async function move(from: number, to: number): Promise<void> {
    if (to < 0 || to >= items.length) return;
    const one = items[from]!;
    put(moved(items, from, to));
    said = t("blocks.movedTo", { what: form(one)?.label ?? "", place: to + 1, count: items.length });
    await tick();
    list?.querySelector<HTMLElement>(`[data-handle="${one.id}"]`)?.focus();
  }

  async function remove(at: number): Promise<void> {
    const gone = items[at]!;
    put(items.filter((_, n) => n !== at));
    said = t("blocks.removed", { what: form(gone)?.label ?? "" });
    await tick();
    (
      list?.querySelectorAll<HTMLElement>(":scope > li > div > div [data-handle]")[Math.max(at - 1, 0)] ??
      list
    )?.focus();
  }

  /** What did not fit the kind that a block was made, in case it is made the old one again. */
  let aside = $state<Record<string, Record<string, unknown>>>({});

  function turn(at: number, kind: string): void {
    const block = items[at]!;
    const from = form(block)?.fields ?? [];
    const to = spec.blocks?.find((one) => one.name === kind);
    if (!to || kind === block.kind) return;
    const kept = { ...aside[block.id], ...block.fields };
    const { fields, lost } = fitting(from, to.fields, kept);
    aside = { ...aside, [block.id]: kept };
    put(items.map((one, n) => (n === at ? { ...one, kind, fields } : one)));
    const names = lost.map((name) => from.find((one) => one.name === name)?.label ?? name).join(", ");
    said = names
      ? t("blocks.turnedLost", { what: to.label, lost: names })
      : t("blocks.turned", { what: to.label });
    if (names) toasts.say(said);
  }

  const arranged = $derived(items.length > 0 && items.every((one) => width(one) > 0));

  /** How many twelfths a column takes; 0 for what is no column. */
  function width(block: Block): number {
    const kind = spec.kind === "blocks" ? spec.blocks?.find((one) => one.name === block.kind) : undefined;
    return kind?.arranges === "column" ? Math.min(12, Math.max(1, Number(block.fields.width ?? 6))) : 0;
  }
</script>

<p class="sr-only" role="status">{said}</p>
{#if arranged}
  <!-- The row as the page has it, in small. -->
  <div class="grid grid-cols-12 gap-1 pb-1" aria-hidden="true">
    {#each items as block (block.id)}
      <div
        class="rounded border bg-wash px-1 py-0.5 text-center text-sm text-moss"
        style:grid-column="span {width(block)}"
      >
        {width(block)}
      </div>
    {/each}
  </div>
{/if}
<Sortable
  {items}
  {id}
  bind:element={list}
  tabindex={-1}
  class="flex flex-col gap-3 outline-none"
  within={() => "sheet"}
  aria-labelledby="{id}-label"
  disabled={readonly}
  named={(block) => form(block)?.label ?? block.kind ?? ""}
  onOrder={(order, block, to) => {
    put(order);
    said = t("blocks.movedTo", { what: form(block)?.label ?? "", place: to + 1, count: items.length });
  }}
>
  {#snippet children(block, n)}
    {@const kind = form(block)}
    <div data-block={block.id}>
      <div class="flex flex-wrap items-center gap-1 border-b bg-wash px-2 py-1">
        {#if !readonly}
          <Handle
            id={block.id}
            label={t("blocks.handle", { what: kind?.label ?? "", place: n + 1, count: items.length })}
          />
        {/if}
        <Button
          look="row"
          class={["flex min-w-0 items-baseline gap-2 px-1", turns && !folded[block.id] ? "w-auto" : "flex-1"]}
          aria-expanded={!folded[block.id]}
          onclick={() => (folded = { ...folded, [block.id]: !folded[block.id] })}
        >
          {#if folded[block.id]}<ChevronRightOutline
              class="self-center text-moss rtl:-scale-x-100"
            />{:else}<ChevronDownOutline class="self-center text-moss" />{/if}
          <!-- Where its kind can be chosen, the choice beside it says which it is. -->
          <span class={turns ? "sr-only" : "font-semibold"}>{kind?.label ?? block.kind}</span>
          {#if folded[block.id]}<span class="truncate text-sm text-moss" lang={entry.locale} dir="auto"
              >{opening(block)}</span
            >{/if}
        </Button>
        {#if turns}
          <Select
            data-head
            inline
            class={["text-sm", !folded[block.id] && "me-auto"]}
            aria-label={t("blocks.turn", { place: n + 1 })}
            value={block.kind}
            onchange={(event) => turn(n, event.currentTarget.value)}
          >
            {#each spec.blocks ?? [] as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
          </Select>
        {/if}
        {#if !readonly}
          <Button
            icon={ArrowUpOutline}
            look="quiet"
            class="disabled:opacity-30"
            disabled={n === 0}
            label={t("blocks.up", { place: n + 1 })}
            onclick={() => move(n, n - 1)}
          />
          <Button
            icon={ArrowDownOutline}
            look="quiet"
            class="disabled:opacity-30"
            disabled={n === items.length - 1}
            label={t("blocks.down", { place: n + 1 })}
            onclick={() => move(n, n + 1)}
          />
          <Button
            icon={FileCopyOutline}
            look="quiet"
            class="disabled:opacity-30"
            disabled={full}
            label={t("blocks.copy", { place: n + 1 })}
            onclick={() => add(n + 1, copied(block))}
          />
          <Button
            icon={CloseOutline}
            look="quiet"
            label={t("blocks.remove", { place: n + 1 })}
            onclick={() => remove(n)}
          />
        {/if}
      </div>
      {#if !folded[block.id]}
        <div class="flex flex-col gap-4 p-3">
          {#if kind}
            <Members
              specs={kind.fields}
              {entry}
              values={block.fields}
              {readonly}
              {version}
              within="{id}-{block.id}"
              onType={(fields) => change(n, fields)}
            />
          {:else}
            <p class="text-straw">{t("blocks.lost", { kind: block.kind })}</p>
          {/if}
        </div>
      {/if}
    </div>
  {/snippet}
</Sortable>
{#if !readonly}
  <div
    class="flex flex-wrap items-center gap-2 pt-1"
    role="group"
    aria-label={t("blocks.add", { where: spec.label })}
  >
    {#if full}
      <span class="text-sm text-moss">{t("blocks.full", { count: spec.limit })}</span>
    {:else if spec.kind === "blocks"}
      <span class="text-sm text-moss">{items.length ? t("blocks.then") : t("blocks.first")}</span>
      {#each spec.blocks ?? [] as one (one.name)}
        <Button
          icon={PlusOutline}
          title={one.help || undefined}
          onclick={() => add(items.length, fresh(spec, one.name))}>{one.label}</Button
        >
      {/each}
    {:else}
      <Button onclick={() => add(items.length, fresh(spec))}>{t("blocks.more")}</Button>
    {/if}
  </div>
{/if}
