<script lang="ts">
  import type { FieldProps } from "../props";
  import Input from "../../../../ui/Input.svelte";

  let { value, readonly, onType, id }: FieldProps = $props();
</script>

<Input
  {id}
  class="max-w-48!"
  type="date"
  value={value ?? ""}
  {readonly}
  onchange={(event) => onType(event.currentTarget.value || null)}
/>
