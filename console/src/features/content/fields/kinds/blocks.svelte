<script lang="ts">
  import BlockList from "../BlockList.svelte";
  import type { FieldProps } from "../props";

  let props: FieldProps = $props();
</script>

<BlockList {...props} />
