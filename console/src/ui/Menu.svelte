<script lang="ts">
  import type { Component, Snippet } from "svelte";
  import { setContext } from "svelte";
  import { DropdownGroup } from "flowbite-svelte";
  import Popover from "./Popover.svelte";
  import type { Look } from "./look";

  /** Acts behind an act: a list of lines, gone through with the arrows too; whichever is chosen closes it. */
  let {
    title = "",
    label,
    icon,
    look,
    align,
    act,
    children: lines,
  }: {
    title?: string;
    label?: string;
    icon?: Component;
    look?: Look;
    align?: "start" | "end";
    /** What stands in the act, where it is more than a title. */
    act?: Snippet;
    children: Snippet;
  } = $props();

  let popover = $state<Popover>();
  setContext("menu", () => popover?.close());

  function go(event: KeyboardEvent & { currentTarget: HTMLElement }): void {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (!step) return;
    event.preventDefault();
    const acts = [...event.currentTarget.querySelectorAll<HTMLElement>("button:not(:disabled)")];
    const at = acts.indexOf(document.activeElement as HTMLElement);
    acts.at(at < 0 && step < 0 ? -1 : (at + step) % acts.length)?.focus();
  }
</script>

<Popover bind:this={popover} {title} {label} {icon} {look} {align} {act} within="w-64 p-1">
  <!-- svelte-ignore a11y_no_static_element_interactions (its lines are what is reached; arrows go between them) -->
  <div onkeydown={go}>
    <DropdownGroup class="p-0 text-base text-ink dark:text-ink">{@render lines()}</DropdownGroup>
  </div>
</Popover>
