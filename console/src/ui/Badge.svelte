<script lang="ts">
  import type { Snippet } from "svelte";
  import { Badge } from "flowbite-svelte";
  import { OURS } from "./look";

  /** A word about what it stands beside. */
  let {
    tone = "moss",
    children,
  }: { tone?: "moss" | "slate" | "straw" | "berry" | "hedge"; children: Snippet } = $props();
  const TONES = {
    moss: "text-moss",
    slate: "text-slate",
    straw: "text-straw",
    berry: "text-berry",
    hedge: "text-hedge",
  };
</script>

<Badge
  color={OURS}
  class={[
    "border border-current bg-transparent px-1.5 py-0 text-sm font-semibold dark:bg-transparent",
    TONES[tone],
  ].join(" ")}>{@render children()}</Badge
>
