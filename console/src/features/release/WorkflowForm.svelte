<script lang="ts">
  import "../../messages/setup";
  import { untrack } from "svelte";
  import { peopleQuery, rolesQuery } from "../access/queries";
  import GateEditor from "./GateEditor.svelte";
  import WorkflowEffects from "./WorkflowEffects.svelte";
  import { gated } from "./gates";
  import { api, sure, type StageSpec, type WorkflowSpec } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { named } from "../../lib/types";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** A workflow as it is being changed: its stages, and the gate before each. */
  interface Props {
    draft: WorkflowSpec;
    fresh: boolean;
    may: boolean;
    dirty: boolean;
    busy: boolean;
    onDone: () => Promise<void>;
    onKept: (made: WorkflowSpec) => void;
    onClose: () => void;
  }
  let {
    draft = $bindable(),
    fresh,
    may,
    dirty,
    busy = $bindable(),
    onDone,
    onKept,
    onClose,
  }: Props = $props();
  const people = peopleQuery();
  const roles = rolesQuery();
  const flows = $derived(session.setup?.workflows ?? []);
  /** The stage that is looked at: the last at first, which is where things go out. */
  let at = $state(untrack(() => draft.stages.length - 1));
  const stage = $derived(draft.stages[at]);

  // What a change would do is said while it is being made.
  const check = whileTyped(
    () => (dirty && may && draft.name ? draft : null),
    (body) => sure(api.POST("/api/workflows/check", { body: { ...body } })),
  );

  function set(part: Partial<WorkflowSpec>): void {
    draft = { ...draft, ...part };
    if (fresh && part.label !== undefined) draft = { ...draft, name: named(part.label, []) };
  }

  function change(changed: StageSpec): void {
    set({ stages: draft.stages.with(at, changed) });
  }

  function insert(): void {
    const label = t("flows.newStage");
    const taken = [...flows.flatMap((one) => one.stages), ...draft.stages].map((one) => one.name);
    // Which place it has among the stages of all workflows is for the service to say.
    const made = { name: named(label, taken), label, gate: gated(1) } as unknown as StageSpec;
    const where = Math.min(Math.max(at, 1), draft.stages.length - 1);
    set({ stages: draft.stages.toSpliced(where, 0, made) });
    at = where;
  }

  function drop(): void {
    set({ stages: draft.stages.toSpliced(at, 1) });
    at = Math.max(1, at - 1);
  }

  async function keep(): Promise<void> {
    busy = true;
    try {
      const made = await sure(api.PUT("/api/workflows", { body: { ...draft } }));
      await onDone();
      onKept(made);
      toasts.say(t("flows.kept", { label: made.label, version: made.version }));
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }

  async function end(): Promise<void> {
    try {
      await sure(api.DELETE("/api/workflows/{name}", { params: { path: { name: draft.name } } }));
      onClose();
      await onDone();
    } catch (caught) {
      check.wrong(caught);
    }
  }
</script>

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
  {#if check.error}<Trouble error={check.error} />{/if}
  {#if check.found && dirty}<WorkflowEffects found={check.found} />{/if}
  {#if may}
    <div class="flex flex-wrap gap-2">
      <Button look="main" disabled={busy || !dirty || !!check.error || !draft.name} onclick={keep}
        >{t("flows.keep")}</Button
      >
      <Button onclick={() => onClose()}>{t("start.cancel")}</Button>
      {#if !fresh}<Button class="ms-auto" onclick={end}>{t("flows.end")}</Button>{/if}
    </div>
  {/if}
</section>
