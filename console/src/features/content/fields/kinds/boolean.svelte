<script lang="ts">
  import { t } from "../../../../lib/i18n";
  import type { FieldProps } from "../props";
  import Select from "../../../../ui/Select.svelte";

  let { value, readonly, onType, id }: FieldProps = $props();
</script>

<Select
  {id}
  class="max-w-48"
  disabled={readonly}
  value={value === true ? "yes" : value === false ? "no" : ""}
  onchange={(event) => onType({ yes: true, no: false }[event.currentTarget.value] ?? null)}
>
  <option value="">{t("fields.noChoice")}</option>
  <option value="yes">{t("fields.yes")}</option>
  <option value="no">{t("fields.no")}</option>
</Select>
