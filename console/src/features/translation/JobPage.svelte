<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import AcceptMenu from "./AcceptMenu.svelte";
  import DecisionList from "./DecisionList.svelte";
  import { isClosed } from "./states";
  import JobLineView from "./JobLineView.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sendFile, sure, type ImportResult, type Job, type JobUnit } from "../../lib/api";
  import { day, t } from "../../lib/i18n";
  import { jobQuery } from "./queries";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { route } from "../../router";
  import OwnFiles from "./OwnFiles.svelte";
  import QuestionList from "./QuestionList.svelte";
  import ImportOutcome from "./ImportOutcome.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Select from "../../ui/Select.svelte";
  import FileInput from "../../ui/FileInput.svelte";
  import Table from "../../ui/Table.svelte";

  const id = $derived((route.params as { id: string }).id);
  const found = jobQuery(() => id);
  const queries = useQueryClient();
  const acting = new Acting(() => queries.invalidateQueries());
  let whole = $state(false);
  let assigning = $state(false);
  let format = $state("xliff-2.1");
  let came = $state.raw<ImportResult | null>(null);

  /** What can be accepted: what has returned, and is neither accepted nor to be chosen about. */
  const returned = (job: Job): JobUnit[] =>
    isClosed(job)
      ? []
      : job.units_shown.filter(
          (unit) => unit.state !== "final" && ["applied", "kept"].includes(unit.outcome),
        );

  const path = () => ({ params: { path: { id } } });

  function accept(unit?: JobUnit, onward: { release?: boolean; dispatch?: string } = {}): Promise<boolean> {
    return acting.do(async () => {
      const units = unit ? [{ entry: unit.entry, key: unit.key }] : [];
      const body = { units, note: "", release: false, dispatch: "", ...onward };
      const result = await sure(api.POST("/api/jobs/{id}/accept", { ...path(), body }));
      if (!result.left) toasts.say(t("jobs.acceptedAll"));
      for (const note of result.notes) toasts.say(note);
    });
  }

  function choose(unit: JobUnit, take: "ours" | "theirs"): Promise<boolean> {
    return acting.do(async () => {
      await sure(
        api.POST("/api/jobs/{id}/choose", { ...path(), body: { entry: unit.entry, key: unit.key, take } }),
      );
    });
  }

  /** What is looked at before it is imported, as there is something to decide or to mend in it. */
  let looked = $state.raw<{ file: File; found: ImportResult } | null>(null);
  const send = (file: File, check: boolean) =>
    sendFile<ImportResult>(
      `/api/jobs/${id}/file?whole=${whole}&check=${check}`,
      file,
      "application/octet-stream",
    );

  function bring(event: Event & { currentTarget: HTMLInputElement }): Promise<boolean> {
    const input = event.currentTarget;
    came = null;
    return acting.do(async () => {
      const file = input.files?.[0];
      if (!file) return;
      input.value = "";
      const found = await send(file, true);
      if (found.decisions.length || found.refused) looked = { file, found };
      else came = await send(file, false);
    });
  }

  function bringIt(): Promise<boolean> {
    return acting.do(async () => {
      if (looked) came = await send(looked.file, false);
      looked = null;
    });
  }
</script>

<svelte:head><title>{found.data?.name ?? t("jobs.title")} – {t("app.name")}</title></svelte:head>
<p>
  <a href="/translation">{t("jobs.back")}</a>{#if found.data}&nbsp;· <a
      href="/translation/commissions/{found.data.commission}">{t("commissions.ofJob")}</a
    >{/if}
</p>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting />
{:else}
  {@const job = found.data}
  {@const rtl = session.locale(job.locale)?.rtl ? "rtl" : "ltr"}
  <h1 class="pb-3 text-2xl font-semibold">{job.name} <span class="text-moss">→ {job.locale_name}</span></h1>
  <JobLineView {job} />
  {#if job.due_told !== null}
    <p class="pt-2 text-straw" role="status">
      {job.due_told
        ? t("jobs.dayBelieved", { bureau: job.bureau, day: day(job.due_told) })
        : t("jobs.dayBelievedNone", { bureau: job.bureau })}
      {job.due_trouble ? t("jobs.dayUntold", { why: job.due_trouble }) : t("jobs.dayBeingTold")}
    </p>
  {/if}
  <div class="flex flex-wrap items-center gap-2 py-4">
    {#if job.may_accept && (returned(job).length || job.units_shown.some((unit) => unit.outcome === "conflict"))}
      <AcceptMenu busy={acting.busy} error={acting.error} onAccept={(onward) => accept(undefined, onward)} />
    {/if}
    {#if job.may_translate && job.state !== "returned"}
      <Button look={job.bureau ? "plain" : "main"} href="/translation/{job.id}/table"
        >{t("jobs.translate")}</Button
      >
    {:else}
      <Button href="/translation/{job.id}/table">{t("jobs.table")}</Button>
    {/if}
    <Button href="/api/jobs/{job.id}/file?format={format}" download>{t("jobs.export")}</Button>
    <Select inline aria-label={t("jobs.format")} bind:value={format}>
      {#each session.setup?.formats ?? [] as one (one.name)}<option value={one.name}>{one.label}</option
        >{/each}
    </Select>
    {#if job.may_carry && !isClosed(job)}
      <FileInput
        accept={(session.setup?.formats ?? []).map((one) => `.${one.ending}`).join(",")}
        onchange={bring}>{t("jobs.import")}</FileInput
      >
      <label class="flex items-center gap-2 text-sm"><Checkbox bind:checked={whole} />{t("jobs.whole")}</label
      >
    {/if}
    {#if job.acts.includes("send-again")}
      <Button
        disabled={acting.busy}
        onclick={() =>
          acting.do(async () => void (await sure(api.POST("/api/jobs/{id}/send-again", path()))))}
        >{t("jobs.again")}</Button
      >
    {/if}
    {#if job.acts.includes("assign")}<Button onclick={() => (assigning = true)}>{t("jobs.assign")}</Button
      >{/if}
    {#if job.acts.includes("cancel")}
      <Button
        disabled={acting.busy}
        onclick={() => acting.do(async () => void (await sure(api.POST("/api/jobs/{id}/cancel", path()))))}
        >{t("jobs.cancel")}</Button
      >
    {/if}
    {#if job.acts.includes("reopen")}
      <Button
        disabled={acting.busy}
        onclick={() => acting.do(async () => void (await sure(api.POST("/api/jobs/{id}/reopen", path()))))}
        >{t("jobs.reopen")}</Button
      >
    {/if}
    {#each job.entries as one (one.id)}<a href="/entries/{one.id}/{job.locale}"
        >{t("jobs.open")}: {one.title}</a
      >{/each}
  </div>
  {#if acting.error}<Trouble error={acting.error} />{/if}
  {#if assigning}
    {#await import("./AssignJobDialog.svelte")}<Waiting lines={1} />{:then part}
      <part.default {job} onClose={() => (assigning = false)} onDone={() => queries.invalidateQueries()} />
    {/await}
  {/if}
  {#if job.questions.length}
    <section class="sheet mb-4 px-4 py-3">
      <h2 class="pb-2 font-semibold">{t("questions.heading", { count: job.questions.length })}</h2>
      <QuestionList
        job={job.id}
        questions={job.questions}
        labels={Object.fromEntries(job.units_shown.map((unit) => [unit.key, unit.label]))}
      />
    </section>
  {/if}
  {#if job.own_files.length}<OwnFiles {job} />{/if}
  {#if looked}
    <FormDialog
      open
      size="lg"
      title={t("jobs.before")}
      go={t("jobs.importIt")}
      busy={acting.busy}
      error={acting.error}
      onclose={() => (looked = null)}
      onsubmit={bringIt}
    >
      <p>{t("jobs.wouldTake", { ...looked.found })}</p>
      {#if looked.found.refused}
        <ul class="list-disc ps-5 text-sm">
          {#each looked.found.problems as one, n (n)}<li>
              {one.title} · <code>{one.key}</code>: {one.what}
            </li>{/each}
        </ul>
      {/if}
      <DecisionList decisions={looked.found.decisions} source={job.source_locale} target={job.locale} />
    </FormDialog>
  {/if}
  {#if came}<ImportOutcome found={came} onHide={() => (came = null)} />{/if}
  <Table class="w-full">
    <thead class="max-md:sr-only">
      <tr class="border-b text-sm text-moss">
        <th class="w-5/12 py-1 text-start">{t("jobs.source")}</th>
        <th class="w-5/12 text-start">{t("jobs.returned")}</th>
        <th class="text-start">{t("jobs.stateHead")}</th>
      </tr>
    </thead>
    <tbody>
      {#each job.units_shown as unit (unit.entry + unit.key)}
        <tr class="border-b align-top max-md:flex max-md:flex-col">
          <td class="prose-text py-2 pe-4" lang={job.source_locale}
            ><span class="block font-sans text-sm text-moss">{unit.title} · {unit.label}</span
            >{unit.source}</td
          >
          <td class="prose-text py-2 pe-4" lang={job.locale} dir={rtl}>
            <span class="block font-sans text-sm">&nbsp;</span>{unit.returned}
            {#if unit.outcome === "conflict"}
              <div class="mt-2 border-s-2 border-berry ps-3 font-sans text-base">
                <p class="text-sm text-moss">{t("jobs.choose")} {t("jobs.current")}:</p>
                <p class="font-serif">{unit.current}</p>
                {#if unit.choices.length && !unit.choices.includes("theirs")}
                  <p class="pb-1 text-sm text-straw">{t("jobs.noSource")}</p>
                {/if}
                {#if unit.choices.includes("ours")}
                  <Button disabled={acting.busy} onclick={() => choose(unit, "ours")}
                    >{t("jobs.takeOurs")}</Button
                  >
                {/if}
                {#if unit.choices.includes("theirs")}
                  <Button disabled={acting.busy} onclick={() => choose(unit, "theirs")}
                    >{t("jobs.takeTheirs")}</Button
                  >
                {/if}
              </div>
            {/if}
          </td>
          <td class="py-2 text-sm">
            {#if unit.trouble}<p class="font-semibold text-straw">
                {t("jobs.trouble", { what: unit.trouble })}
              </p>{/if}
            {#each unit.notes as note, n (n)}<p class="text-moss">{t("jobs.note", { note })}</p>{/each}
            {#if !unit.outcome && !unit.trouble}<p class="text-moss">{t("jobs.notReturned")}</p>{/if}
            {#if unit.outcome}<p class={unit.outcome === "drifted" ? "text-straw" : "text-moss"}>
                {t(`jobs.outcome.${unit.outcome}`)}
              </p>{/if}
            {#if unit.state === "final"}
              <p class="font-semibold text-hedge">{t("jobs.accepted")}</p>
            {:else if job.may_accept && returned(job).includes(unit)}
              <Button disabled={acting.busy} onclick={() => accept(unit)}>{t("jobs.acceptOne")}</Button>
            {/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </Table>
{/if}
