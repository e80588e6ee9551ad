<script lang="ts">
  import Reference from "./reference.svelte";
  import type { FieldProps } from "../props";

  let props: FieldProps = $props();
</script>

<Reference {...props} />
