<script lang="ts">
  import "../../messages/setup";
  import { t } from "../../lib/i18n";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import type { Policy } from "./types";

  /** How entries of a type go out: what a day and a time that is past mean, and what a release has to have. */
  let { policy, onChange }: { policy: Policy; onChange: (policy: Policy) => void } = $props();
  const set = (part: Policy) => onChange({ ...policy, ...part });
</script>

<fieldset class="flex flex-wrap items-end gap-x-5 gap-y-3">
  <legend class="pb-1 font-semibold">{t("policy.title")}</legend>
  <label class="flex flex-col gap-1 text-sm"
    >{t("policy.past")}
    <Select
      value={policy.past ?? "refuse"}
      onchange={(event) => set({ past: event.currentTarget.value as Policy["past"] })}
    >
      {#each ["refuse", "next", "now"] as const as one (one)}
        <option value={one}>{t(`policy.past_${one}`)}</option>
      {/each}
    </Select></label
  >
  <label class="flex flex-col gap-1 text-sm"
    >{t("policy.hour")}
    <Input
      class="w-28"
      placeholder="09:00"
      pattern="([01]\d|2[0-3]):[0-5]\d"
      maxlength={5}
      value={policy.hour ?? ""}
      oninput={(event) => set({ hour: event.currentTarget.value })}
    /></label
  >
  {#each ["needs_date", "needs_end", "needs_note"] as const as flag (flag)}
    <label class="flex items-center gap-2 pb-1.5"
      ><Checkbox
        checked={policy[flag] ?? false}
        onchange={(event) => set({ [flag]: event.currentTarget.checked })}
      />{t(`policy.${flag}`)}</label
    >
  {/each}
</fieldset>
