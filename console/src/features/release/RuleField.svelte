<script lang="ts">
  import "../../messages/release";
  import { t } from "../../lib/i18n";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import { RULES } from "./rules";

  /** How often something comes again: chosen, or typed as a rule of RFC 5545. */
  let {
    value = $bindable(""),
    label,
    once = true,
  }: { value?: string; label: string; once?: boolean } = $props();
  const chosen = () => Object.entries(RULES).find(([, rule]) => rule === value)?.[0] ?? "own";
  let how = $state(chosen());
  const shown = $derived(Object.keys(RULES).filter((one) => once || one !== "once"));
</script>

<label class="flex flex-col gap-1"
  >{label}
  <Select
    bind:value={how}
    onchange={() => {
      value = RULES[how] ?? (value || "FREQ=WEEKLY;BYDAY=MO,TH");
    }}
  >
    {#each shown as one (one)}<option value={one}>{t(`rules.${one}`)}</option>{/each}
    <option value="own">{t("rules.own")}</option>
  </Select></label
>
{#if how === "own"}
  <label class="flex flex-col gap-1"
    >{t("rules.rule")}<Input bind:value dir="ltr" maxlength={500} required />
    <span class="text-sm text-moss">{t("rules.about")}</span></label
  >
{/if}
