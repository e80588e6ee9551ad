<script lang="ts">
  import "../../messages/translation";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Select from "../../ui/Select.svelte";

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
  const who = (one: Target) =>
    one.bureau ? `bureau ${one.bureau}` : one.person ? `person ${one.person}` : "";

  function into(tag: string, wanted: boolean): void {
    const others = targets.filter((one) => one.locale !== tag).map(sent);
    // Whoever does another language is most likely meant, where that is a bureau.
    const bureau = others.find((one) => one.bureau)?.bureau ?? "";
    onChange(wanted ? [...others, { locale: tag, bureau, person: "" }] : others);
  }

  function done(tag: string, by: string): void {
    const [kind, ...rest] = by.split(" ");
    const name = rest.join(" ");
    const given = { bureau: kind === "bureau" ? name : "", person: kind === "person" ? name : "" };
    onChange(targets.map((one) => (one.locale === tag ? { ...sent(one), ...given } : sent(one))));
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
        <Select
          class="w-auto! flex-1"
          aria-label={t("commissions.whoFor", { language: one.name })}
          value={who(mine)}
          disabled={fixed}
          onchange={(event) => done(one.tag, event.currentTarget.value)}
        >
          <option value="">{t("commissions.anyone")}</option>
          {#each session.setup?.bureaus ?? [] as bureau (bureau)}<option value="bureau {bureau}"
              >{bureau}</option
            >{/each}
          {#if fixed && mine.person}<option value="person {mine.person}">{mine.person_name}</option>{/if}
          {#each translators.filter((person) => person.locale === one.tag) as person (person.handle)}<option
              value="person {person.handle}">{person.name}</option
            >{/each}
        </Select>
      {/if}
    </div>
  {/each}
</fieldset>
