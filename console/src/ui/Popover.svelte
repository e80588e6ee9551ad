<script lang="ts">
  import type { Component, Snippet } from "svelte";
  import type { ClassValue } from "svelte/elements";
  import { autoUpdate, computePosition, flip, offset, shift, size } from "@floating-ui/dom";
  import Button from "./Button.svelte";
  import type { Look } from "./look";

  /**
   * More, in a sheet that an act opens below itself. Escape and a click elsewhere close it, and the focus goes back to the act:
   * the browser's own popover sees to both. What is inside may close it too.
   */
  let {
    title = "",
    label,
    icon,
    look = "plain",
    align = "end",
    class: extra,
    within,
    act,
    children,
  }: {
    title?: string;
    label?: string;
    icon?: Component;
    look?: Look;
    align?: "start" | "end";
    class?: ClassValue;
    within?: ClassValue;
    act?: Snippet;
    children: Snippet<[() => void]>;
  } = $props();

  const id = $props.id();
  let open = $state(false);
  let holder = $state<HTMLElement>();
  let sheet = $state<HTMLElement>();

  $effect(() => {
    if (!open || !holder || !sheet) return;
    const [from, panel] = [holder, sheet];
    return autoUpdate(from, panel, async () => {
      const room = size({
        padding: 8,
        apply: ({ availableWidth, availableHeight }) =>
          void Object.assign(panel.style, {
            maxWidth: `${availableWidth}px`,
            maxHeight: `${availableHeight}px`,
          }),
      });
      const at = await computePosition(from, panel, {
        placement: `bottom-${align}`,
        strategy: "fixed",
        middleware: [offset(4), flip(), shift({ padding: 8 }), room],
      });
      Object.assign(panel.style, { left: `${at.x}px`, top: `${at.y}px` });
    });
  });

  /** Close it. */
  export function close(): void {
    sheet?.hidePopover();
  }
</script>

<span class="inline-flex" bind:this={holder}>
  <Button {look} {icon} {label} class={extra} popovertarget={id} aria-expanded={open}
    >{#if act}{@render act()}{:else if !label}{title}{/if}</Button
  >
</span>
<div
  {id}
  popover="auto"
  bind:this={sheet}
  ontoggle={(event) => (open = event.newState === "open")}
  class={["sheet fixed inset-auto m-0 overflow-y-auto p-2 text-ink shadow-lg", within]}
>
  {#if open}{@render children(close)}{/if}
</div>
