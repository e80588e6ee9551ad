<script lang="ts">
  import "../../messages/setup";
  import { peopleQuery, rolesQuery } from "./queries";
  import EntryPicker from "../content/fields/EntryPicker.svelte";
  import { api, sure, type Why } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { localeNames, stageNames, typeNames } from "../../lib/names";
  import { session } from "../../lib/state/session.svelte";
  import AnyOf from "../../ui/AnyOf.svelte";
  import Button from "../../ui/Button.svelte";
  import Select from "../../ui/Select.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** Why somebody may or may not do something: by which grant, or who else may. */
  const people = peopleQuery();
  const roles = rolesQuery();
  let whose = $state(session.me?.handle ?? "");
  let verb = $state("write");
  let type = $state("");
  let locale = $state("");
  let stage = $state("");
  let entry = $state<{ id: string; title: string } | null>(null);
  let answer = $state.raw<Why | null>(null);
  let whyWrong = $state<unknown>(null);

  async function why(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    whyWrong = null;
    try {
      const query = { person: whose, verb, ...(type && { type }), ...(locale && { locale }) };
      const more = { ...(stage && { stage }), ...(entry && { entry: entry.id }) };
      answer = await sure(api.GET("/api/why", { params: { query: { ...query, ...more } } }));
    } catch (caught) {
      answer = null;
      whyWrong = caught;
    }
  }
</script>

<section class="pt-8" aria-labelledby="why">
  <h2 id="why" class="text-lg font-semibold">{t("people.why")}</h2>
  <form class="flex flex-wrap items-end gap-3 pt-2" onsubmit={why}>
    <label class="flex flex-col text-sm"
      >{t("people.who")}
      <Select bind:value={whose}>
        {#each people.data?.items ?? [] as one (one.handle)}<option value={one.handle}>{one.name}</option
          >{/each}
      </Select></label
    >
    <label class="flex flex-col text-sm"
      >{t("people.may")}
      <Select bind:value={verb}>
        {#each roles.data?.verbs ?? [] as one (one.verb)}<option value={one.verb}>{one.label}</option>{/each}
      </Select></label
    >
    <AnyOf label={t("flows.type")} bind:value={type} options={typeNames()} />
    <AnyOf label={t("flows.locale")} bind:value={locale} options={localeNames()} />
    <AnyOf label={t("people.stage")} bind:value={stage} options={stageNames()} />
    <div class="min-w-56 text-sm">
      {#if entry}<span class="flex items-center gap-2"
          >{entry.title}<Button onclick={() => (entry = null)}>{t("flows.any")}</Button></span
        >{:else}<EntryPicker
          label={t("people.entry")}
          onChoose={(one) => (entry = { id: one.id, title: one.title })}
        />{/if}
    </div>
    <Button look="main" type="submit">{t("people.ask")}</Button>
  </form>
  <div role="status" class="max-w-3xl pt-3">
    {#if whyWrong}<Trouble error={whyWrong} />{/if}
    {#if answer}
      <p>
        <strong class={answer.allowed ? "text-hedge" : "text-straw"}
          >{t(answer.allowed ? "people.yes" : "people.no")}</strong
        >
        {answer.reason}
      </p>
      {#if answer.who.length}<p class="text-moss">{t("people.these", { who: answer.who.join(", ") })}</p>{/if}
    {/if}
  </div>
</section>
