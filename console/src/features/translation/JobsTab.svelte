<script lang="ts">
  import "../../messages/translation";
  import { searchParams } from "sv-router";
  import { keepInAddress } from "../../lib/address";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import AnyOf from "../../ui/AnyOf.svelte";
  import Button from "../../ui/Button.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { peopleQuery } from "../access/queries";
  import ArchiveImport from "./ArchiveImport.svelte";
  import JobLineView from "./JobLineView.svelte";
  import { jobsQuery, type JobsAsked } from "./queries";
  import { JOB_STATES } from "./states";

  /** The jobs, the newest first. What they are narrowed to stands in the address: it is there again after a job was looked at. */
  const NAMES = ["state", "locale", "bureau", "person"] as const;
  const said = (name: (typeof NAMES)[number]) => String(searchParams.get(name) ?? "");
  const asked = $derived(
    Object.fromEntries(NAMES.flatMap((name) => (said(name) ? [[name, said(name)]] : []))) as JobsAsked,
  );
  const doer = $derived(
    asked.bureau ? `bureau ${asked.bureau}` : asked.person ? `person ${asked.person}` : "",
  );
  let many = $state(1);
  const jobs = jobsQuery(
    () => asked,
    () => many,
  );
  const people = peopleQuery();
  const states = $derived([
    ["open", t("jobs.notClosed")] as const,
    ...JOB_STATES.map((one) => [one, t(`jobs.state.${one}`)] as const),
  ]);
  const locales = $derived((session.setup?.locales ?? []).map((one) => [one.tag, one.name] as const));
  const doers = $derived([
    ...(session.setup?.bureaus ?? []).map((one) => [`bureau ${one}`, one] as const),
    ...(people.data?.items ?? []).map((one) => [`person ${one.handle}`, one.name] as const),
  ]);

  function ask(name: (typeof NAMES)[number], value: string): void {
    many = 1;
    keepInAddress(name, value);
  }
  function askDoer(by: string): void {
    const name = by.slice(by.indexOf(" ") + 1);
    ask("bureau", by.startsWith("bureau ") ? name : "");
    ask("person", by.startsWith("person ") ? name : "");
  }
</script>

<ArchiveImport />
<fieldset class="flex flex-wrap items-end gap-3 pb-3">
  <legend class="sr-only">{t("jobs.narrow")}</legend>
  <AnyOf
    label={t("jobs.byState")}
    bind:value={() => asked.state ?? "", (to) => ask("state", to)}
    options={states}
  />
  <AnyOf
    label={t("jobs.to")}
    bind:value={() => asked.locale ?? "", (to) => ask("locale", to)}
    options={locales}
  />
  <AnyOf label={t("jobs.bureau")} bind:value={() => doer, askDoer} options={doers} />
  {#if Object.keys(asked).length}
    <Button onclick={() => NAMES.forEach((name) => ask(name, ""))}>{t("jobs.allJobs")}</Button>
  {/if}
</fieldset>
{#if jobs.error}
  <Trouble error={jobs.error} again={() => jobs.refetch()} />
{:else if !jobs.data}
  <Waiting lines={3} />
{:else}
  <div class="flex flex-col gap-2">
    {#each jobs.data.items as job (job.id)}<JobLineView {job} />{:else}<p class="text-moss">
        {Object.keys(asked).length ? t("jobs.noSuch") : t("jobs.none")}
      </p>{/each}
  </div>
  {#if jobs.data.next}<Button class="mt-2" onclick={() => many++}>{t("jobs.more")}</Button>{/if}
{/if}
