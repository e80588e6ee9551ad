<script lang="ts">
  import type { Snippet } from "svelte";
  import { Alert } from "flowbite-svelte";
  import { OURS } from "./look";

  /** What has to be known here: `wrong` when something did not work, plain otherwise. */
  let {
    kind = "plain",
    role,
    children,
  }: { kind?: "plain" | "wrong"; role?: "alert" | "status"; children: Snippet } = $props();
  const edge = $derived({ plain: "border-s-slate", wrong: "border-s-straw" }[kind]);
</script>

<Alert
  {role}
  rounded={false}
  color={OURS}
  class={["rounded-md border border-s-4 bg-sheet px-4 py-3 text-base text-ink dark:bg-sheet", edge].join(" ")}
>
  {@render children()}
</Alert>
