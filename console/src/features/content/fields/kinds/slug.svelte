<script lang="ts">
  import TextField from "../TextField.svelte";
  import type { FieldProps } from "../props";

  let props: FieldProps = $props();
</script>

<TextField {...props} />
