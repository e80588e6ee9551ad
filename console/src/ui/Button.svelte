<script lang="ts">
  import type { Component, Snippet } from "svelte";
  import type { ClassValue, HTMLAnchorAttributes, HTMLButtonAttributes } from "svelte/elements";
  import { Button } from "flowbite-svelte";
  import { LOOKS, OURS, type Look } from "./look";

  /**
   * What somebody can do. `main` is the act that moves the work on, at most one in a view; `quiet` stands in toolbars, `row` is a
   * whole line of a menu or a list, `link` stands within a sentence. With `label` it shows its icon alone, and is called that. `busy` shows that it is being done.
   */
  let {
    look = "plain",
    icon: Icon,
    label,
    busy = false,
    disabled,
    class: extra,
    children,
    ...rest
  }: HTMLButtonAttributes &
    Pick<HTMLAnchorAttributes, "href" | "target" | "rel" | "download"> & {
      look?: Look;
      icon?: Component<{ class?: string; "aria-hidden"?: boolean }>;
      label?: string;
      busy?: boolean;
      class?: ClassValue;
      children?: Snippet;
    } = $props();
</script>

<Button
  aria-label={label}
  title={label}
  {...rest as object}
  data-act
  color={OURS}
  aria-busy={busy || undefined}
  loading={busy}
  disabled={disabled ?? false}
  class={[LOOKS[look], label && "px-1.5", extra]}
>
  {#if Icon}<Icon class="size-5 shrink-0" aria-hidden={true} />{/if}{@render children?.()}
</Button>
