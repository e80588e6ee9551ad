<script lang="ts">
  import Reference from "./reference.svelte";
  import type { FieldProps } from "../props";

  let { value, ...props }: FieldProps = $props();
  /** Somebody who moved it in the outline gave it a rank, too. */
  const above = $derived(
    value && typeof value === "object" ? ((value as { entry?: string }).entry ?? null) : value,
  );
</script>

<Reference {...props} value={above} />
