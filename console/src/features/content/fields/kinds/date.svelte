<script lang="ts">
  import type { FieldProps } from "../props";
  import DateField from "../../../../ui/DateField.svelte";

  let { value, readonly, onType, id }: FieldProps = $props();
</script>

<DateField {id} value={String(value ?? "")} {readonly} onvalue={(day) => onType(day || null)} />
