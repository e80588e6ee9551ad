<script lang="ts">
  import "../../messages/translation";
  import type { CommissionChange, CommissionDetails } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import DateField from "../../ui/DateField.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import LookInto from "./LookInto.svelte";
  import TargetRows from "./TargetRows.svelte";

  /** How a commission goes out: into which languages, by whom, when it is due; each choice is kept as it is made. */
  interface Props {
    commission: CommissionDetails;
    busy: boolean;
    onChange: (body: CommissionChange) => Promise<boolean>;
  }
  let { commission, busy, onChange }: Props = $props();
  const fixed = $derived(!commission.may_change);
  const sources = $derived(commission.content.map((entry) => entry.source_locale));
  const locales = $derived((session.setup?.locales ?? []).filter((one) => !sources.includes(one.tag)));
</script>

<section aria-label={t("commissions.how")} class="flex flex-col gap-3">
  <h2 class="text-lg font-semibold">{t("commissions.how")}</h2>
  <TargetRows
    targets={commission.targets}
    translators={commission.translators}
    {locales}
    {fixed}
    {busy}
    onChange={(targets) => void onChange({ targets })}
  />
  <div class="grid gap-3 sm:grid-cols-2">
    <label class="flex flex-col gap-1"
      >{t("jobs.name")}<Input
        value={commission.name}
        disabled={fixed}
        onchange={(event) => void onChange({ name: event.currentTarget.value })}
      /></label
    >
    <DateField
      label={t("jobs.due")}
      readonly={fixed}
      bind:value={() => commission.due, (due) => due !== commission.due && void onChange({ due })}
    />
  </div>
  <label class="flex flex-col gap-1"
    >{t("jobs.noteFor")}<Textarea
      rows={2}
      value={commission.note}
      disabled={fixed}
      onchange={(event) => void onChange({ note: event.currentTarget.value })}
    /></label
  >
  <label class="flex flex-col gap-1"
    >{t("commissions.returns")}
    <Select
      value={commission.returns}
      disabled={fixed}
      onchange={(event) => void onChange({ returns: event.currentTarget.value as "draft" | "review" })}
    >
      <option value="draft">{t("commissions.returns_draft")}</option>
      <option value="review">{t("commissions.returns_review")}</option>
    </Select></label
  >
  <fieldset disabled={fixed || busy} class="flex flex-col gap-1">
    <legend class="sr-only">{t("commissions.options")}</legend>
    {#each ["fill", "machine", "again", "current", "shared"] as const as option (option)}
      {#if (option !== "shared" || commission.mine) && (option !== "machine" || session.setup?.machine || commission.machine)}
        <label class="flex items-center gap-2">
          <Checkbox
            checked={commission[option]}
            disabled={fixed}
            onchange={() => void onChange({ [option]: !commission[option] })}
          />
          {t(`commissions.option_${option}`)}
        </label>
      {/if}
    {/each}
  </fieldset>
  {#each ["memories", "glossaries"] as const as what (what)}
    <LookInto
      {what}
      chosen={commission[what]}
      {fixed}
      {busy}
      onChange={(chosen) => void onChange({ [what]: chosen })}
    />
  {/each}
</section>
