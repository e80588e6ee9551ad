<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import JobLineView from "./JobLineView.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, Problem, sure, type JobUnit } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { jobQuery } from "./queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import FileInput from "../../ui/FileInput.svelte";
  import Table from "../../ui/Table.svelte";

  const id = $derived((route.params as { id: string }).id);
  const found = jobQuery(() => id);
  const queries = useQueryClient();
  let error = $state<unknown>(null);
  let busy = $state(false);

  async function act(does: () => Promise<void>): Promise<void> {
    busy = true;
    error = null;
    try {
      await does();
      await queries.invalidateQueries();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  const path = () => ({ params: { path: { id } } });

  function accept(unit?: JobUnit): Promise<void> {
    return act(async () => {
      const body = { entry: unit?.entry ?? "", key: unit?.key ?? "", note: "" };
      const result = await sure(api.POST("/api/jobs/{id}/accept", { ...path(), body }));
      if (!result.left) toasts.say(t("jobs.acceptedAll"));
      for (const note of result.notes) toasts.say(note);
    });
  }

  function choose(unit: JobUnit, take: "ours" | "theirs"): Promise<void> {
    return act(async () => {
      await sure(
        api.POST("/api/jobs/{id}/choose", { ...path(), body: { entry: unit.entry, key: unit.key, take } }),
      );
    });
  }

  function bring(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const input = event.currentTarget;
    return act(async () => {
      const file = input.files?.[0];
      if (!file) return;
      const answer = await fetch(`/api/jobs/${id}/file`, {
        method: "PUT",
        headers: { "Content-Type": "application/xliff+xml" },
        body: await file.arrayBuffer(),
      });
      input.value = "";
      const body = await answer.json();
      if (!answer.ok) throw new Problem(answer.status, body);
      toasts.say(t("jobs.imported", body));
    });
  }
</script>

<svelte:head><title>{found.data?.name ?? t("jobs.title")} – {t("app.name")}</title></svelte:head>
<p><a href="/translation">{t("jobs.back")}</a></p>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting />
{:else}
  {@const job = found.data}
  {@const rtl = session.locale(job.locale)?.rtl ? "rtl" : "ltr"}
  <h1 class="pb-3 text-2xl font-semibold">{job.name} <span class="text-moss">→ {job.locale_name}</span></h1>
  <JobLineView {job} />
  <div class="flex flex-wrap items-center gap-2 py-4">
    {#if job.state === "returned" && job.may_accept}
      <Button look="main" disabled={busy} onclick={() => accept()}>{t("jobs.acceptAll")}</Button>
    {/if}
    <Button href="/api/jobs/{job.id}/file" download>{t("jobs.export")}</Button>
    {#if job.may_carry && !["accepted", "cancelled"].includes(job.state)}
      <FileInput accept=".xlf,.xliff,application/xliff+xml" onchange={bring}>{t("jobs.import")}</FileInput>
    {/if}
    {#if job.state === "failed" && session.may("commission")}
      <Button
        disabled={busy}
        onclick={() => act(async () => void (await sure(api.POST("/api/jobs/{id}/send-again", path()))))}
        >{t("jobs.again")}</Button
      >
    {/if}
    {#if ["waiting", "sent", "in work", "failed"].includes(job.state) && session.may("commission")}
      <Button
        disabled={busy}
        onclick={() => act(async () => void (await sure(api.POST("/api/jobs/{id}/cancel", path()))))}
        >{t("jobs.cancel")}</Button
      >
    {/if}
    {#each job.entries as one (one.id)}<a href="/entries/{one.id}/{job.locale}"
        >{t("jobs.open")}: {one.title}</a
      >{/each}
  </div>
  {#if error}<Trouble {error} />{/if}
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
                {#if job.may_accept}
                  <Button disabled={busy} onclick={() => choose(unit, "ours")}>{t("jobs.takeOurs")}</Button>
                  <Button disabled={busy} onclick={() => choose(unit, "theirs")}
                    >{t("jobs.takeTheirs")}</Button
                  >
                {/if}
              </div>
            {/if}
          </td>
          <td class="py-2 text-sm">
            {#if unit.outcome}<p class={unit.outcome === "drifted" ? "text-straw" : "text-moss"}>
                {t(`jobs.outcome.${unit.outcome}`)}
              </p>{/if}
            {#if unit.state === "final"}
              <p class="font-semibold text-hedge">{t("jobs.accepted")}</p>
            {:else if job.state === "returned" && job.may_accept && unit.outcome !== "conflict"}
              <Button disabled={busy} onclick={() => accept(unit)}>{t("jobs.acceptOne")}</Button>
            {/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </Table>
{/if}
