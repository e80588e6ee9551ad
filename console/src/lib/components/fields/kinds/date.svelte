<script lang="ts">
  import type { FieldProps } from "../props";

  let { value, readonly, onType, id }: FieldProps = $props();
</script>

<input
  {id}
  class="field max-w-48"
  type="date"
  value={value ?? ""}
  {readonly}
  onchange={(event) => onType(event.currentTarget.value || null)}
/>
