<script lang="ts">
  import { t } from "../../../../lib/i18n";
  import type { FieldProps } from "../props";
  import Select from "../../../../ui/Select.svelte";

  let { spec, value, readonly, onType, id }: FieldProps = $props();
</script>

<Select
  {id}
  class="max-w-72"
  disabled={readonly}
  value={value ?? ""}
  onchange={(event) => onType(event.currentTarget.value || null)}
>
  <option value="">{t("fields.noChoice")}</option>
  {#each spec.choices as choice (choice)}<option value={choice}>{choice}</option>{/each}
</Select>
