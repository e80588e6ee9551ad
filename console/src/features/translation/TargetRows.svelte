<script lang="ts">
  import "../../messages/translation";
  import { t } from "../../lib/i18n";
  import Checkbox from "../../ui/Checkbox.svelte";
  import DoerSelect from "./DoerSelect.svelte";

  /** Into which languages something goes, and who does each: a bureau, a person, or whoever writes it. */
  interface Target {
    locale: string;
    bureau?: string;
    person?: string;
    person_name?: string;
  }
  interface Props {
    targets: Target[];
    /** The languages that there are to choose from. */
    locales: { tag: string; name: string }[];
    translators: { locale: string; handle: string; name: string }[];
    fixed?: boolean;
    busy?: boolean;
    onChange: (targets: { locale: string; bureau: string; person: string }[]) => void;
  }
  let { targets, locales, translators, fixed = false, busy = false, onChange }: Props = $props();
  /** What is sent of a target: its name is known. */
  const sent = ({ locale, bureau = "", person = "" }: Target) => ({ locale, bureau, person });

  function into(tag: string, wanted: boolean): void {
    const others = targets.filter((one) => one.locale !== tag).map(sent);
    // Whoever does another language is most likely meant, where that is a bureau.
    const bureau = others.find((one) => one.bureau)?.bureau ?? "";
    onChange(wanted ? [...others, { locale: tag, bureau, person: "" }] : others);
  }

  function done(tag: string, doer: { bureau: string; person: string }): void {
    onChange(targets.map((one) => (one.locale === tag ? { locale: tag, ...doer } : sent(one))));
  }
</script>

<fieldset disabled={fixed || busy} class="flex flex-col gap-1">
  <legend class="pb-1 font-semibold">{t("jobs.to")}</legend>
  {#each locales as one (one.tag)}
    {@const mine = targets.find((each) => each.locale === one.tag)}
    <div class="flex flex-wrap items-center gap-x-3 gap-y-1">
      <label class="flex min-w-32 items-center gap-2 py-1">
        <Checkbox checked={!!mine} onchange={() => into(one.tag, !mine)} disabled={fixed} />
        <span lang={one.tag}>{one.name}</span>
      </label>
      {#if mine}
        <DoerSelect
          class="w-auto! flex-1"
          label={t("commissions.whoFor", { language: one.name })}
          doer={mine}
          locale={one.tag}
          {translators}
          disabled={fixed}
          onChange={(doer) => done(one.tag, doer)}
        />
      {/if}
    </div>
  {/each}
</fieldset>
