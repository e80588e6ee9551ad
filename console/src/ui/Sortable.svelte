<script lang="ts" module>
  import { setAriaStrings } from "svelte-dnd-action";
  import { t } from "../lib/i18n";

  // What is said while something is carried by keyboard, in the words of the console.
  const said = (key: string) => (at: { itemLabel: string; position: number; count: number }) =>
    t(`sort.${key}`, { what: at.itemLabel, place: at.position, count: at.count });
  setAriaStrings({
    dragStarted: said("taken"),
    movedToPosition: said("moved"),
    movedToZoneEnd: said("moved"),
    movedToZoneStart: said("moved"),
    dropped: said("put"),
    zoneActiveInstruction: t("sort.how"),
    zoneDragDisabledInstruction: "",
  });
</script>

<script lang="ts" generics="Item extends { id: string }">
  import type { Snippet } from "svelte";
  import type { ClassValue, HTMLAttributes } from "svelte/elements";
  import { prefersReducedMotion } from "svelte/motion";
  import { dragHandleZone, SOURCES, TRIGGERS, type DndEvent } from "svelte-dnd-action";

  /**
   * Things in an order that somebody may change: by dragging a `Handle` with a pointer or a finger, by the space bar on it and the
   * arrows, or by the arrows alone. What lies within a thing is not dragged along with another list.
   */
  let {
    items,
    element = $bindable(),
    disabled = false,
    named,
    onOrder,
    class: extra,
    within,
    children,
    ...rest
  }: Omit<HTMLAttributes<HTMLOListElement>, "children" | "class"> & {
    items: Item[];
    element?: HTMLOListElement;
    disabled?: boolean;
    /** What a thing is called, for whoever hears where it went. */
    named: (item: Item) => string;
    onOrder: (items: Item[], moved: Item, to: number) => void;
    class?: ClassValue;
    within?: (item: Item) => ClassValue;
    children: Snippet<[Item, number]>;
  } = $props();

  const type = $props.id();
  /** The order while something is carried, which is not the true one yet. */
  let carried = $state.raw<Item[] | null>(null);
  let byKeys = false;
  const shown = $derived(carried ?? items);

  function consider({ detail }: CustomEvent<DndEvent<Item>>): void {
    byKeys = detail.info.source === SOURCES.KEYBOARD && detail.info.trigger !== TRIGGERS.DRAG_STOPPED;
    carried = detail.items;
  }

  function finalize({ detail }: CustomEvent<DndEvent<Item>>): void {
    carried = byKeys ? detail.items : null;
    if (detail.info.trigger === TRIGGERS.DRAG_STOPPED) carried = null;
    give(detail.items, detail.info.id);
  }

  function give(order: Item[], id: string): void {
    const to = order.findIndex((one) => one.id === id);
    const moved = order[to];
    if (moved && order.some((one, n) => one.id !== items[n]?.id)) onOrder(order, moved, to);
  }

  /** The arrows on a handle move its thing at once. */
  function onKey(event: KeyboardEvent): void {
    const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    const handle = (event.target as HTMLElement).closest<HTMLElement>("[data-handle]");
    const id = handle?.dataset.handle;
    const from = items.findIndex((one) => one.id === id);
    if (!step || disabled || carried || from < 0 || from + step < 0 || from + step >= items.length) return;
    event.preventDefault();
    event.stopPropagation();
    const order = [...items];
    order.splice(from + step, 0, ...order.splice(from, 1));
    give(order, id!);
    setTimeout(() => element?.querySelector<HTMLElement>(`[data-handle="${id}"]`)?.focus());
  }
</script>

<ol
  {...rest}
  bind:this={element}
  class={extra}
  onkeydown={onKey}
  use:dragHandleZone={{
    items: shown,
    type,
    dragDisabled: disabled,
    flipDurationMs: prefersReducedMotion.current ? 0 : 120,
    zoneTabIndex: -1,
    zoneItemTabIndex: -1,
    dropTargetStyle: {},
    delayTouchStart: true,
  }}
  onconsider={consider}
  onfinalize={finalize}
>
  {#each shown as item, n (item.id)}
    <li aria-label={named(item)} class={within?.(item)}>{@render children(item, n)}</li>
  {/each}
</ol>
