<script lang="ts">
  import "../../messages/translation";
  import { untrack } from "svelte";
  import { api, sure, type Job } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import DateField from "../../ui/DateField.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import DoerSelect from "./DoerSelect.svelte";

  /** Gives a job to somebody else, puts off the day on which it is due, or both. */
  interface Props {
    job: Job;
    onClose: () => void;
    onDone: () => Promise<unknown>;
  }
  let { job, onClose, onDone }: Props = $props();
  const was = untrack(() => ({
    bureau: job.bureau,
    person: job.person,
    person_name: job.translator,
    due: job.due,
  }));
  let doer = $state<{ bureau: string; person: string; person_name?: string }>(was);
  let due = $state(was.due);
  let note = $state("");
  const moved = $derived(doer.bureau !== was.bureau || doer.person !== was.person);
  const postponed = $derived(due !== was.due);
  const acting = new Acting(() => onDone());

  const ask = (body: { bureau?: string; person?: string; due?: string; note: string }) =>
    sure(api.POST("/api/jobs/{id}/assign", { params: { path: { id: job.id } }, body }));

  async function assign(): Promise<void> {
    const to = moved ? { bureau: doer.bureau, person: doer.person } : {};
    const by = postponed ? { due } : {};
    if (!(await acting.do(async () => void (await ask({ ...to, ...by, note }))))) return;
    onClose();
    // What a bureau was told is not taken back by an undo.
    if (moved && (was.bureau || doer.bureau)) toasts.say(t("jobs.assigned"));
    else toasts.offer(t("jobs.assigned"), t("jobs.assignUndo"), () => void back());
  }

  async function back(): Promise<void> {
    try {
      await ask({ person: was.person, bureau: was.bureau, due: was.due, note: "" });
      await onDone();
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

<FormDialog
  open
  title={t("jobs.assigning", { name: job.name, language: job.locale_name })}
  go={t("jobs.assignIt")}
  busy={acting.busy}
  ready={moved || postponed}
  error={acting.error}
  onclose={onClose}
  onsubmit={assign}
>
  <label class="flex flex-col gap-1"
    >{t("jobs.bureau")}<DoerSelect
      {doer}
      locale={job.locale}
      translators={job.translators}
      onChange={(now) => (doer = now)}
    /></label
  >
  <DateField label={t("jobs.due")} bind:value={due} />
  <label class="flex flex-col gap-1">{t("assign.note")}<Input bind:value={note} /></label>
  <p class="text-sm text-moss" role="status">
    {t("jobs.assignKeeps")}
    {#if moved && was.bureau}{t("jobs.assignLeaves", { bureau: was.bureau })}{/if}
    {#if moved && doer.bureau}{t("jobs.assignSends", { bureau: doer.bureau })}{/if}
    {#if postponed && !moved && was.bureau}{t("jobs.assignDayTold", { bureau: was.bureau })}{/if}
  </p>
</FormDialog>
