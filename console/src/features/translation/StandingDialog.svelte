<script lang="ts">
  import "../../messages/translation";
  import { api, sure, type StandingCommission, type StandingCommissions } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import { sectionsQuery } from "../release/timetable";
  import LookInto from "./LookInto.svelte";
  import TargetRows from "./TargetRows.svelte";

  /** Sets up what goes out for translation by itself, or changes it. */
  interface Props {
    changing: StandingCommission | null;
    translators: StandingCommissions["translators"];
    onClose: () => void;
    onDone: () => unknown;
  }
  let { changing, translators, onClose, onDone }: Props = $props();
  const sections = sectionsQuery();
  const acting = new Acting(async () => void (await onDone()));
  // The dialog is made anew for each of them.
  /* svelte-ignore state_referenced_locally */
  const was = changing;
  let open = $state(true);
  let name = $state(was?.name ?? "");
  let section = $state(was?.section ?? "");
  let sends = $state(was?.sends ?? "out");
  let pause = $state(String(was?.pause ?? 30));
  let days = $state(String(was?.days ?? 0));
  let note = $state(was?.note ?? "");
  let linked = $state(was?.linked ?? true);
  let fill = $state(was?.fill ?? true);
  let machine = $state(was?.machine ?? false);
  let memories = $state.raw(was?.memories ?? []);
  let glossaries = $state.raw(was?.glossaries ?? []);
  let returns = $state(was?.returns ?? "draft");
  let targets = $state.raw(
    (was?.targets ?? []).map(({ locale, bureau, person }) => ({ locale, bureau, person })),
  );

  async function keep(): Promise<void> {
    const numbers = { pause: Number(pause), days: Number(days) };
    const looked = { fill, machine, memories, glossaries };
    const body = { name, section, sends, ...numbers, note, linked, ...looked, returns, targets };
    const done = await acting.do(async () => {
      if (was)
        await sure(api.PATCH("/api/standing-commissions/{id}", { params: { path: { id: was.id } }, body }));
      else await sure(api.POST("/api/standing-commissions", { body }));
    });
    if (done) onClose();
  }
</script>

<FormDialog
  bind:open
  size="md"
  title={was ? t("standing.change", { name: was.name }) : t("standing.newTitle")}
  go={was ? t("standing.save") : t("standing.add")}
  busy={acting.busy}
  ready={!!name.trim() && targets.length > 0}
  error={acting.error}
  onsubmit={keep}
  onclose={onClose}
>
  <div class="grid gap-3 sm:grid-cols-2">
    <label class="flex flex-col gap-1"
      >{t("standing.name")}<Input bind:value={name} maxlength={120} required /></label
    >
    <label class="flex flex-col gap-1"
      >{t("standing.section")}<Select bind:value={section}>
        <option value="">{t("standing.everything")}</option>
        {#each sections.data ?? [] as [id, title] (id)}<option value={id}>{title}</option>{/each}
      </Select></label
    >
  </div>
  <TargetRows
    {targets}
    {translators}
    locales={session.setup?.locales ?? []}
    onChange={(now) => (targets = now)}
  />
  <label class="flex flex-col gap-1"
    >{t("standing.sends")}<Select bind:value={sends}>
      <option value="out">{t("standing.sends_out")}</option>
      <option value="draft">{t("standing.sends_draft")}</option>
    </Select></label
  >
  <div class="grid gap-3 sm:grid-cols-2">
    <label class="flex flex-col gap-1"
      >{t("standing.pause")}<Input type="number" min="1" max="10080" bind:value={pause} required /></label
    >
    <label class="flex flex-col gap-1"
      >{t("standing.days")}<Input type="number" min="0" max="366" bind:value={days} required /></label
    >
  </div>
  <label class="flex flex-col gap-1"
    >{t("commissions.returns")}<Select bind:value={returns}>
      <option value="draft">{t("commissions.returns_draft")}</option>
      <option value="review">{t("commissions.returns_review")}</option>
    </Select></label
  >
  <label class="flex flex-col gap-1">{t("jobs.noteFor")}<Textarea rows={2} bind:value={note} /></label>
  <label class="flex items-center gap-2"><Checkbox bind:checked={linked} />{t("standing.linked")}</label>
  <label class="flex items-center gap-2"><Checkbox bind:checked={fill} />{t("commissions.option_fill")}</label
  >
  {#if session.setup?.machine}<label class="flex items-center gap-2"
      ><Checkbox bind:checked={machine} />{t("commissions.option_machine")}</label
    >{/if}
  <LookInto what="memories" chosen={memories} onChange={(now) => (memories = now)} />
  <LookInto what="glossaries" chosen={glossaries} onChange={(now) => (glossaries = now)} />
</FormDialog>
