<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { blockNavigation } from "sv-router";
  import GateEditor from "./GateEditor.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import EntryPicker from "../content/fields/EntryPicker.svelte";
  import {
    api,
    sure,
    type StageSpec,
    type WorkflowChoice,
    type WorkflowImpact,
    type WorkflowSpec,
  } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { peopleQuery, rolesQuery } from "../access/queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { named } from "../../lib/types";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import StageBead from "../../ui/StageBead.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  const people = peopleQuery();
  const roles = rolesQuery();
  const queries = useQueryClient();
  const may = $derived(session.may("configure"));
  const flows = $derived(session.setup?.workflows ?? []);
  let draft = $state.raw<WorkflowSpec | null>(null);
  let fresh = $state(false);
  let at = $state(1);
  let impact = $state.raw<WorkflowImpact | null>(null);
  let error = $state<unknown>(null);
  let busy = $state(false);
  let choices = $state<WorkflowChoice[]>($state.snapshot(session.setup?.choices ?? []));
  let sections = $state<Record<string, string>>({});
  let choiceImpact = $state.raw<WorkflowImpact | null>(null);
  let choiceError = $state<unknown>(null);
  const chosenDirty = $derived(JSON.stringify(choices) !== JSON.stringify(session.setup?.choices ?? []));
  const dirty = $derived(
    draft !== null &&
      (fresh || JSON.stringify(draft) !== JSON.stringify(flows.find((one) => one.name === draft!.name))),
  );
  const stage = $derived(draft?.stages[at]);

  for (const choice of session.setup?.choices ?? []) {
    if (choice.section)
      void sure(api.GET("/api/entries/{id}", { params: { path: { id: choice.section } } }))
        .then((found) => (sections[choice.section!] = found.title))
        .catch(() => undefined);
  }

  function open(flow: WorkflowSpec): void {
    draft = structuredClone($state.snapshot(flow)) as WorkflowSpec;
    fresh = false;
    at = flow.stages.length - 1;
    impact = null;
    error = null;
  }

  /** A gate that asks for so many sign-offs, and for nothing unusual. */
  function gated(sign_offs: number, checks: string[] = ["required"]): StageSpec["gate"] {
    const none = { roles: [], people: [], custom: [], override_roles: [], override_people: [] };
    return { sign_offs, author: "no", checks, embedded: "warn", ...none };
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
    at = 2;
    impact = null;
  }

  function set(part: Partial<WorkflowSpec>): void {
    draft = { ...draft!, ...part };
    if (fresh && part.label !== undefined) draft = { ...draft, name: named(part.label, []) };
  }

  function change(changed: StageSpec): void {
    set({ stages: draft!.stages.with(at, changed) });
  }

  function insert(): void {
    const label = t("flows.newStage");
    const taken = [...flows.flatMap((one) => one.stages), ...draft!.stages].map((one) => one.name);
    // Which place it has among the stages of all workflows is for the service to say.
    const made = { name: named(label, taken), label, gate: gated(1) } as unknown as StageSpec;
    const where = Math.min(Math.max(at, 1), draft!.stages.length - 1);
    set({ stages: draft!.stages.toSpliced(where, 0, made) });
    at = where;
  }

  function drop(): void {
    set({ stages: draft!.stages.toSpliced(at, 1) });
    at = Math.max(1, at - 1);
  }

  // What a change would do is said while it is being made.
  $effect(() => {
    const body = draft;
    if (!body || !dirty || !may || !body.name) return;
    const pending = setTimeout(async () => {
      try {
        impact = await sure(api.POST("/api/workflows/check", { body: { ...body } }));
        error = null;
      } catch (caught) {
        impact = null;
        error = caught;
      }
    }, 300);
    return () => clearTimeout(pending);
  });
  $effect(() => {
    const body = { choices: $state.snapshot(choices) };
    if (!chosenDirty || !may) return;
    const pending = setTimeout(async () => {
      try {
        choiceImpact = await sure(api.POST("/api/workflows/choices/check", { body }));
        choiceError = null;
      } catch (caught) {
        choiceImpact = null;
        choiceError = caught;
      }
    }, 300);
    return () => clearTimeout(pending);
  });

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

  async function keep(): Promise<void> {
    busy = true;
    error = null;
    try {
      const made = await sure(api.PUT("/api/workflows", { body: { ...draft! } }));
      await done();
      open(made);
      toasts.say(t("flows.kept", { label: made.label, version: made.version }));
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  async function end(): Promise<void> {
    try {
      await sure(api.DELETE("/api/workflows/{name}", { params: { path: { name: draft!.name } } }));
      draft = null;
      await done();
    } catch (caught) {
      error = caught;
    }
  }

  async function keepChoices(): Promise<void> {
    busy = true;
    try {
      await sure(api.PUT("/api/workflows/choices", { body: { choices: $state.snapshot(choices) } }));
      await done();
      choices = $state.snapshot(session.setup?.choices ?? []);
      choiceImpact = null;
      toasts.say(t("flows.chosen"));
    } catch (caught) {
      choiceError = caught;
    } finally {
      busy = false;
    }
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
    const checks = (one.gate.checks?.length ?? 0) + (one.gate.custom?.length ?? 0);
    if (checks) parts.push(t("flows.checked", { count: checks }));
    return parts.join(", ") || t("flows.free");
  }
</script>

{#snippet effects(found: WorkflowImpact)}
  <section class="sheet border-s-4 border-s-slate p-3" role="status">
    <h3 class="font-semibold">{t("flows.would")}</h3>
    <ul class="ms-4 list-disc">
      {#each found.effects as effect (effect.what)}
        <li>
          {effect.what}
          {#if effect.editions}<span class="text-moss"
              >{t("flows.editions", { count: effect.editions })}
              {effect.examples.map((one) => `“${one.title}”`).join(", ")}</span
            >{/if}
        </li>
      {:else}<li>{t("flows.nothing")}</li>{/each}
    </ul>
  </section>
{/snippet}

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
    <section class="flex flex-col gap-3" aria-labelledby="choices">
      <h2 id="choices" class="text-lg font-semibold">{t("flows.choices")}</h2>
      <p class="text-sm text-moss">{t("flows.choicesAbout")}</p>
      {#each choices as choice, n (n)}
        <div class="sheet flex flex-wrap items-end gap-3 p-3">
          <label class="flex flex-col text-sm"
            >{t("flows.follow")}
            <Select bind:value={choice.workflow} disabled={!may}>
              {#each flows as flow (flow.name)}<option value={flow.name}>{flow.label}</option>{/each}
            </Select></label
          >
          <label class="flex flex-col text-sm"
            >{t("flows.type")}
            <Select bind:value={choice.type} disabled={!may}>
              <option value="">{t("flows.any")}</option>
              {#each session.setup?.types ?? [] as one (one.name)}<option value={one.name}>{one.label}</option
                >{/each}
            </Select></label
          >
          <label class="flex flex-col text-sm"
            >{t("flows.locale")}
            <Select bind:value={choice.locale} disabled={!may}>
              <option value="">{t("flows.any")}</option>
              {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option
                >{/each}
            </Select></label
          >
          <div class="flex min-w-48 flex-1 flex-col text-sm">
            {#if choice.section}
              <span>{t("flows.section")}</span>
              <span class="flex items-center gap-2 py-1"
                >{sections[choice.section] ?? choice.section}
                {#if may}<Button onclick={() => (choice.section = "")}>{t("flows.any")}</Button>{/if}</span
              >
            {:else if may}<EntryPicker
                label={t("flows.section")}
                onChoose={(one) => {
                  choice.section = one.id;
                  sections[one.id] = one.title;
                }}
              />{/if}
          </div>
          {#if may}<Button
              icon={CloseOutline}
              label={t("flows.dropChoice", { number: n + 1 })}
              onclick={() => choices.splice(n, 1)}
            />{/if}
        </div>
      {:else}<p class="text-moss">{t("flows.noChoices")}</p>{/each}
      {#if choiceError}<Trouble error={choiceError} />{/if}
      {#if choiceImpact && chosenDirty}{@render effects(choiceImpact)}{/if}
      {#if may}
        <div class="flex flex-wrap gap-2">
          <Button
            onclick={() =>
              choices.push({ workflow: flows[0]?.name ?? "", type: "", locale: "", section: "" })}
            >{t("flows.addChoice")}</Button
          >
          <Button
            look={chosenDirty ? "main" : "plain"}
            disabled={busy || !chosenDirty || !!choiceError}
            onclick={keepChoices}>{t("flows.keepChoices")}</Button
          >
        </div>
      {/if}
    </section>
  </div>
  {#if draft}
    <section class="sheet flex min-w-0 flex-col gap-4 self-start p-4" aria-labelledby="flow">
      <h2 id="flow" class="text-lg font-semibold">{draft.label || t("flows.new")}</h2>
      <fieldset disabled={!may} class="flex min-w-0 flex-col gap-4">
        <label class="flex flex-col gap-1 text-sm"
          >{t("flows.label")}<Input
            value={draft.label}
            oninput={(event) => set({ label: event.currentTarget.value })}
          /></label
        >
        <div class="flex flex-wrap gap-1" role="group" aria-label={t("flows.stages")}>
          {#each draft.stages as one, n (one.name)}
            <Button aria-pressed={at === n} onclick={() => (at = n)}>{one.label}</Button>
          {/each}
          {#if may}<Button onclick={insert}>{t("flows.insert")}</Button>{/if}
        </div>
        {#if stage && at > 0}
          <div class="flex flex-wrap items-end gap-3">
            <label class="flex flex-col gap-1 text-sm"
              >{t("flows.stage")}<Input
                value={stage.label}
                oninput={(event) => change({ ...stage, label: event.currentTarget.value })}
              /></label
            >
            <label class="flex flex-col gap-1 text-sm"
              >{t("flows.stageName")}<Input
                class="font-mono"
                value={stage.name}
                disabled={at === draft.stages.length - 1 ||
                  flows.some((f) => f.stages.some((s) => s.name === stage.name))}
                onchange={(event) => change({ ...stage, name: event.currentTarget.value })}
              /></label
            >
            {#if may && at < draft.stages.length - 1}<Button onclick={drop}
                >{t("flows.drop", { stage: stage.label })}</Button
              >{/if}
          </div>
          <h3 class="font-semibold">{t("flows.gate", { stage: stage.label })}</h3>
          {#key stage.name}
            <GateEditor
              {stage}
              roles={roles.data?.items ?? []}
              people={(people.data?.items ?? []).filter((one) => one.kind === "person")}
              onChange={change}
            />
          {/key}
        {:else}<p class="text-moss">{t("flows.draftFree")}</p>{/if}
      </fieldset>
      {#if error}<Trouble {error} />{/if}
      {#if impact && dirty}{@render effects(impact)}{/if}
      {#if may}
        <div class="flex flex-wrap gap-2">
          <Button look="main" disabled={busy || !dirty || !!error || !draft.name} onclick={keep}
            >{t("flows.keep")}</Button
          >
          <Button onclick={() => (draft = null)}>{t("start.cancel")}</Button>
          {#if !fresh}<Button class="ms-auto" onclick={end}>{t("flows.end")}</Button>{/if}
        </div>
      {/if}
    </section>
  {/if}
</div>
