<script lang="ts">
  import type { FieldProps } from "../props";
  import Input from "../../../../ui/Input.svelte";

  let { spec, value, readonly, onType, id }: FieldProps = $props();
</script>

<Input
  {id}
  class="max-w-48!"
  type="number"
  step="any"
  min={spec.minimum ?? undefined}
  max={spec.maximum ?? undefined}
  value={value ?? ""}
  {readonly}
  oninput={(event) => onType(event.currentTarget.value === "" ? null : event.currentTarget.valueAsNumber)}
/>
