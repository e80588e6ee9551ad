<script lang="ts">
  import { Kept } from "../../lib/state/kept.svelte";
  import { session } from "../../lib/state/session.svelte";

  /** The first steps of a new house, for whoever sets it up, until they are done or left. Elsewhere nothing of them is loaded. */
  const beginning = new Kept("beginning", true);
</script>

{#if beginning.value && session.may("configure")}
  {#await import("./FirstSteps.svelte") then part}<part.default
      over={() => (beginning.value = false)}
    />{/await}
{/if}
