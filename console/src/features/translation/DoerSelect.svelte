<script lang="ts">
  import "../../messages/translation";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Select from "../../ui/Select.svelte";

  /** Who translates into a language: a bureau, a person, or whoever writes it. One who is not among those to choose from stays shown. */
  interface Doer {
    bureau?: string;
    person?: string;
    person_name?: string;
  }
  interface Props {
    doer: Doer;
    locale: string;
    translators: { locale: string; handle: string; name: string }[];
    label?: string;
    class?: string;
    disabled?: boolean;
    onChange: (doer: { bureau: string; person: string }) => void;
  }
  let { doer, locale, translators, label, class: extra, disabled = false, onChange }: Props = $props();
  const people = $derived(translators.filter((one) => one.locale === locale));
  const bureaus = $derived(session.setup?.bureaus ?? []);
  const value = $derived(doer.bureau ? `bureau ${doer.bureau}` : doer.person ? `person ${doer.person}` : "");

  function chosen(by: string): void {
    const name = by.slice(by.indexOf(" ") + 1);
    onChange({
      bureau: by.startsWith("bureau ") ? name : "",
      person: by.startsWith("person ") ? name : "",
    });
  }
</script>

<Select
  class={extra}
  aria-label={label}
  {value}
  {disabled}
  onchange={(event) => chosen(event.currentTarget.value)}
>
  <option value="">{t("commissions.anyone")}</option>
  {#each bureaus as one (one)}<option value="bureau {one}">{one}</option>{/each}
  {#if doer.bureau && !bureaus.includes(doer.bureau)}<option {value}>{doer.bureau}</option>{/if}
  {#each people as one (one.handle)}<option value="person {one.handle}">{one.name}</option>{/each}
  {#if doer.person && !people.some((one) => one.handle === doer.person)}<option {value}
      >{doer.person_name ?? doer.person}</option
    >{/if}
</Select>
