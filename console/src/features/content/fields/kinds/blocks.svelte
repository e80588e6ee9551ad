<script lang="ts">
  import Trouble from "../../../../ui/Trouble.svelte";
  import Waiting from "../../../../ui/Waiting.svelte";
  import type { FieldProps } from "../props";

  let props: FieldProps = $props();
  // Few types have blocks, and what moves them about is large.
  const list = import("../BlockList.svelte");
</script>

{#await list}<Waiting lines={2} />{:then part}<part.default {...props} />{:catch error}<Trouble
    {error}
  />{/await}
