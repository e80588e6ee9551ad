<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { blockNavigation } from "sv-router";
  import WorkflowChoices from "./WorkflowChoices.svelte";
  import WorkflowForm from "./WorkflowForm.svelte";
  import { gated } from "./gates";
  import { api, sure, type StageSpec, type WorkflowSpec } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import StageBead from "../../ui/StageBead.svelte";

  const queries = useQueryClient();
  const may = $derived(session.may("configure"));
  const flows = $derived(session.setup?.workflows ?? []);
  let draft = $state.raw<WorkflowSpec | null>(null);
  let fresh = $state(false);
  /** How often one was opened: each time it is looked at anew. */
  let opened = $state(0);
  let busy = $state(false);
  let chosenDirty = $state(false);
  const dirty = $derived(
    draft !== null &&
      (fresh || JSON.stringify(draft) !== JSON.stringify(flows.find((one) => one.name === draft!.name))),
  );

  function open(flow: WorkflowSpec): void {
    draft = structuredClone($state.snapshot(flow)) as WorkflowSpec;
    fresh = false;
    opened++;
  }

  function begin(): void {
    draft = {
      name: "",
      label: "",
      version: 1,
      stages: [
        { name: "draft", label: t("flows.draft"), order: 0, gate: gated(0, []) },
        { name: "review", label: t("flows.review"), order: 100, gate: gated(0) },
        { name: "release", label: t("flows.release"), order: 1000, gate: gated(1) },
      ],
    };
    fresh = true;
    opened++;
  }

  $effect(() =>
    blockNavigation({
      beforeUnload: () => !(dirty || chosenDirty) || !may,
      onNavigate: () => !(dirty || chosenDirty) || !may || busy || confirm(t("types.leave")),
    }),
  );

  async function done(): Promise<void> {
    session.setup = await sure(api.GET("/api/setup"));
    await queries.invalidateQueries();
  }

  function follows(flow: WorkflowSpec): string {
    const types = (session.setup?.types ?? []).filter((one) => one.workflow === flow.name);
    const more = (session.setup?.choices ?? []).filter((one) => one.workflow === flow.name).length;
    const said = types.map((one) => one.label).join(", ");
    if (!said && !more) return t("flows.nobody");
    return [said, more ? t("flows.byChoice", { count: more }) : ""].filter(Boolean).join("; ");
  }

  function gateSaid(one: StageSpec): string {
    const parts = one.gate.sign_offs ? [t("flows.asks", { count: one.gate.sign_offs })] : [];
    if (one.gate.leaving) parts.push(t("flows.asksLeaving"));
    const checks = (one.gate.checks?.length ?? 0) + (one.gate.custom?.length ?? 0);
    if (checks) parts.push(t("flows.checked", { count: checks }));
    return parts.join(", ") || t("flows.free");
  }
</script>

<svelte:head><title>{t("flows.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<div class="flex flex-wrap items-center gap-2 pb-2">
  <h1 class="me-auto text-2xl font-semibold">{t("flows.title")}</h1>
  {#if may}<Button onclick={begin}>{t("flows.new")}</Button>{/if}
</div>
{#if !may}<p class="pb-3 text-moss">{t("setUp.onlyLook")}</p>{/if}
<div class="grid gap-6 xl:grid-cols-[minmax(0,1fr)_minmax(0,32rem)]">
  <div class="flex min-w-0 flex-col gap-6">
    <ul class="flex flex-col gap-3" aria-label={t("flows.title")}>
      {#each flows as flow (flow.name)}
        <li class="sheet p-4 {draft?.name === flow.name ? 'border-s-4 border-s-hedge' : ''}">
          <div class="flex flex-wrap items-baseline gap-2">
            <Button
              look="link"
              class="font-serif text-lg font-semibold"
              aria-pressed={draft?.name === flow.name}
              onclick={() => open(flow)}>{flow.label}</Button
            >
            <span class="text-sm text-moss">{t("setUp.version", { version: flow.version })}</span>
          </div>
          <ol class="flex flex-wrap gap-y-2 pt-2">
            {#each flow.stages as one, n (one.name)}
              <li class="min-w-0 flex-1 basis-28">
                <StageBead last={n === flow.stages.length - 1} />
                <span class="block font-semibold">{one.label}</span>
                <span class="block pe-3 text-sm text-moss">{n ? gateSaid(one) : ""}</span>
              </li>
            {/each}
          </ol>
          <p class="pt-1 text-sm text-moss">{t("flows.followed", { by: follows(flow) })}</p>
        </li>
      {/each}
    </ul>
    <WorkflowChoices {may} bind:dirty={chosenDirty} onDone={done} />
  </div>
  {#if draft}
    {#key opened}
      <WorkflowForm
        bind:draft
        bind:busy
        {fresh}
        {may}
        {dirty}
        onDone={done}
        onKept={open}
        onClose={() => (draft = null)}
      />
    {/key}
  {/if}
</div>
