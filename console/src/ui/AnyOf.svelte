<script lang="ts">
  import { t } from "../lib/i18n";
  import Select from "./Select.svelte";

  /** One of some, or any: what a question or a rule is limited to. */
  let {
    value = $bindable(),
    label,
    options,
    disabled = false,
  }: {
    value?: string | null;
    label: string;
    /** What can be chosen, each with its words. */
    options: Iterable<readonly [value: string, words: string]>;
    disabled?: boolean;
  } = $props();
</script>

<label class="flex flex-col text-sm"
  >{label}
  <Select bind:value {disabled}>
    <option value="">{t("flows.any")}</option>
    {#each options as [one, words] (one)}<option value={one}>{words}</option>{/each}
  </Select></label
>
