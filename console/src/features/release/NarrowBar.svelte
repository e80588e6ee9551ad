<script lang="ts">
  import "../../messages/release";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { peopleQuery } from "../access/queries";
  import AnyOf from "../../ui/AnyOf.svelte";
  import Button from "../../ui/Button.svelte";
  import { ALL, given, type Narrowing } from "./narrowing";
  import { sectionsQuery } from "./timetable";

  /** What the timetable is narrowed to: a state, somebody, a type, a language, a section. */
  let { narrowing = $bindable() }: { narrowing: Narrowing } = $props();
  const people = peopleQuery();
  const sections = sectionsQuery();
  const STATES = ["planned", "held", "gone", "undone", "cancelled"] as const;
</script>

<fieldset class="flex flex-wrap items-end gap-3 pb-4 print:hidden">
  <legend class="sr-only">{t("timetable.narrow")}</legend>
  <AnyOf
    label={t("timetable.byState")}
    bind:value={narrowing.state}
    options={STATES.map((one) => [one, t(`timetable.state.${one}`)] as const)}
  />
  <AnyOf
    label={t("timetable.byPerson")}
    bind:value={narrowing.person}
    options={(people.data?.items ?? []).map((one) => [one.handle, one.name] as const)}
  />
  <AnyOf
    label={t("timetable.byType")}
    bind:value={narrowing.type}
    options={(session.setup?.types ?? []).map((one) => [one.name, one.label] as const)}
  />
  <AnyOf
    label={t("timetable.byLocale")}
    bind:value={narrowing.locale}
    options={(session.setup?.locales ?? []).map((one) => [one.tag, one.name] as const)}
  />
  {#if sections.data?.size}
    <AnyOf label={t("timetable.bySection")} bind:value={narrowing.section} options={sections.data} />
  {/if}
  {#if Object.keys(given(narrowing)).length}
    <Button onclick={() => (narrowing = { ...ALL })}>{t("timetable.all")}</Button>
  {/if}
</fieldset>
