<script lang="ts">
  import { tick } from "svelte";
  import type { OutlineLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import type { Outline, Row } from "../../lib/state/outline.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Rail from "../../ui/Rail.svelte";
  import ChevronDownOutline from "flowbite-svelte-icons/ChevronDownOutline.svelte";
  import ChevronRightOutline from "flowbite-svelte-icons/ChevronRightOutline.svelte";
  import DotsVerticalOutline from "flowbite-svelte-icons/DotsVerticalOutline.svelte";
  import OutlineActs, { type LineActs } from "./OutlineActs.svelte";

  /** The tree itself (WAI-ARIA 1.2, tree): gone through by the arrows, moved in by them with Alt and by dragging. */
  interface Props {
    outline: Outline;
    locale: string;
    mayMove: boolean;
    busy: boolean;
    onMove: (line: OutlineLine, below: string, beside?: { before?: string; after?: string }) => Promise<void>;
    acts: LineActs;
  }
  let { outline, locale, mayMove, busy, onMove, acts }: Props = $props();
  /** Pixels from the edge of the window within which it scrolls while something is carried. */
  const EDGE = 60;
  const rows = $derived(outline.rows);
  let focused = $state("");
  let dragged = $state<string | null>(null);
  let over = $state<{ id: string; how: "before" | "in" | "after" } | null>(null);
  let tree = $state<HTMLDivElement>();

  /** Put the focus on a line. */
  export async function focus(id: string): Promise<void> {
    focused = id;
    await tick();
    tree?.querySelector<HTMLElement>(`[data-id="${id}"]`)?.focus();
  }

  async function toggle(row: Row): Promise<void> {
    try {
      if (outline.opened[row.line.id]) outline.close(row.line.id);
      else await outline.open(row.line.id);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  function siblings(row: Row): OutlineLine[] {
    return outline.levels[row.parent]?.items ?? [];
  }

  /** Alt with an arrow moves: up and down among those beside, right below the one before, left beside the one above. */
  async function shift(row: Row, key: string): Promise<void> {
    const beside = siblings(row);
    const before = beside[row.place - 1];
    const after = beside[row.place + 1];
    if (key === "ArrowUp" && before) await onMove(row.line, row.parent, { before: before.id });
    else if (key === "ArrowDown" && after) await onMove(row.line, row.parent, { after: after.id });
    else if (key === "ArrowRight" && before) await onMove(row.line, before.id);
    else if (key === "ArrowLeft" && row.parent) {
      const above = rows.find((one) => one.line.id === row.parent);
      if (above) await onMove(row.line, above.parent, { after: above.line.id });
    }
  }

  async function onKey(event: KeyboardEvent, row: Row, n: number): Promise<void> {
    if (event.target !== event.currentTarget) return;
    const rtl = getComputedStyle(event.currentTarget as Element).direction === "rtl";
    const key = rtl
      ? ({ ArrowLeft: "ArrowRight", ArrowRight: "ArrowLeft" }[event.key] ?? event.key)
      : event.key;
    const isOpen = outline.opened[row.line.id];
    if (event.altKey && key.startsWith("Arrow")) {
      event.preventDefault();
      if (mayMove && row.line.movable) await shift(row, key);
      return;
    }
    const to = { ArrowDown: n + 1, ArrowUp: n - 1, Home: 0, End: rows.length - 1 }[key];
    if (to !== undefined && rows[to]) {
      event.preventDefault();
      await focus(rows[to].line.id);
    } else if (key === "ArrowRight" && row.line.has_below) {
      event.preventDefault();
      if (!isOpen) await toggle(row);
      else if (rows[n + 1]) await focus(rows[n + 1]!.line.id);
    } else if (key === "ArrowLeft") {
      event.preventDefault();
      if (isOpen) outline.close(row.line.id);
      else if (row.parent) await focus(row.parent);
    } else if (key === "Enter") {
      await navigate("/entries/:id/:locale", { params: { id: row.line.id, locale: row.line.locale } });
    }
  }

  /** Where over a row something is held: its edges are beside it, its middle is below it. */
  function aim(row: Row, element: Element, y: number): void {
    if (!dragged || dragged === row.line.id) return;
    const box = element.getBoundingClientRect();
    const part = (y - box.top) / box.height;
    over = { id: row.line.id, how: part < 0.28 ? "before" : part > 0.72 ? "after" : "in" };
  }

  function dragOver(event: DragEvent, row: Row): void {
    if (!dragged || dragged === row.line.id) return;
    event.preventDefault();
    aim(row, event.currentTarget as HTMLElement, event.clientY);
  }

  /** A finger or a pen takes a row by its handle; browsers carry things about for a mouse alone. */
  function take(event: PointerEvent, line: OutlineLine): void {
    if (event.pointerType === "mouse") return;
    event.preventDefault();
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    dragged = line.id;
  }

  function carry(event: PointerEvent): void {
    if (!dragged || event.pointerType === "mouse") return;
    const element = document
      .elementFromPoint(event.clientX, event.clientY)
      ?.closest<HTMLElement>("[data-id]");
    const row = rows.find((one) => one.line.id === element?.dataset.id);
    if (row && element) aim(row, element, event.clientY);
    // What is out of sight comes nearer at the edges.
    if (event.clientY < EDGE) window.scrollBy(0, -EDGE / 4);
    else if (event.clientY > window.innerHeight - EDGE) window.scrollBy(0, EDGE / 4);
  }

  async function put(event: PointerEvent): Promise<void> {
    if (event.pointerType === "mouse") return;
    const row = rows.find((one) => one.line.id === over?.id);
    if (row && event.type === "pointerup") await drop(row);
    else dragged = over = null;
  }

  async function drop(row: Row): Promise<void> {
    const line = rows.find((one) => one.line.id === dragged)?.line;
    const how = over?.how;
    dragged = over = null;
    if (!line || !how) return;
    if (how === "in") await onMove(line, row.line.id);
    else await onMove(line, row.parent, { [how]: row.line.id });
  }
</script>

<p id="outline-keys" class="pb-2 text-sm text-moss">{t(mayMove ? "outline.keys" : "outline.keysRead")}</p>
<div
  bind:this={tree}
  role="tree"
  aria-label={t("outline.title")}
  aria-describedby="outline-keys"
  class="sheet overflow-hidden"
>
  {#each rows as row, n (row.line.id)}
    {@const line = row.line}
    {@const here = (focused || rows[0]?.line.id) === line.id}
    <div
      role="treeitem"
      aria-level={row.depth + 1}
      aria-posinset={row.place + 1}
      aria-setsize={row.count}
      aria-expanded={line.has_below ? !!outline.opened[line.id] : undefined}
      aria-selected={here}
      aria-label="{line.title || t('list.untitled')}, {line.type_label}"
      tabindex={here ? 0 : -1}
      data-id={line.id}
      draggable={mayMove && line.movable}
      class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b px-2 py-1.5 last:border-b-0 {dragged ===
      line.id
        ? 'opacity-50'
        : ''} {over?.id === line.id
        ? over.how === 'in'
          ? 'bg-wash outline-2 outline-hedge'
          : over.how === 'before'
            ? 'border-t-4 border-t-hedge'
            : 'border-b-4 border-b-hedge'
        : ''}"
      style:padding-inline-start="{0.5 + row.depth * 1.5}rem"
      onfocus={() => (focused = line.id)}
      onkeydown={(event) => onKey(event, row, n)}
      ondragstart={(event) => {
        dragged = line.id;
        event.dataTransfer?.setData("text/plain", line.id);
      }}
      ondragend={() => (dragged = over = null)}
      ondragover={(event) => dragOver(event, row)}
      ondrop={(event) => {
        event.preventDefault();
        void drop(row);
      }}
    >
      {#if mayMove}
        <!-- For a finger: a mouse drags the row, and the keys move it with Alt. -->
        <span class="hidden w-6 any-pointer-coarse:inline">
          {#if line.movable}<Button
              look="quiet"
              tabindex={-1}
              aria-hidden="true"
              icon={DotsVerticalOutline}
              class="touch-none px-0 text-moss"
              data-take={line.id}
              onpointerdown={(event) => take(event, line)}
              onpointermove={carry}
              onpointerup={put}
              onpointercancel={put}
            />{/if}
        </span>
      {/if}
      {#if line.has_below}
        <Button
          look="quiet"
          tabindex={-1}
          icon={outline.opened[line.id] ? ChevronDownOutline : ChevronRightOutline}
          class="text-moss rtl:-scale-x-100"
          label={t(outline.opened[line.id] ? "outline.close" : "outline.open", { title: line.title })}
          onclick={() => toggle(row)}
        />
      {:else}<span class="w-8" aria-hidden="true"></span>{/if}
      <a
        href="/entries/{line.id}/{line.locale}"
        tabindex={here ? 0 : -1}
        lang={line.locale}
        dir="auto"
        class="min-w-0 font-semibold break-words">{line.title || t("list.untitled")}</a
      >
      <span class="text-sm text-moss">{line.type_label}</span>
      {#if locale && line.locale !== locale}<span class="text-sm text-straw"
          >{t("outline.notIn", { locale: session.locale(locale)?.name })}</span
        >{/if}
      {#if line.incomplete}<span class="text-sm font-semibold text-straw">{t("outline.incomplete")}</span
        >{/if}
      {#if line.behind}<span class="text-sm text-straw">{t("outline.behind")}</span>{/if}
      <span class="ms-auto flex items-center gap-2">
        <Rail beads={line.rail} planned={line.planned} />
        <OutlineActs {line} {mayMove} tabindex={here ? 0 : -1} {busy} {...acts} />
      </span>
    </div>
  {/each}
</div>
