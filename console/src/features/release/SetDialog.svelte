<script lang="ts">
  import "../../messages/release";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, once, sure, type Entry, type WhenAsk } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate } from "../../router";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import FieldInput from "../content/fields/FieldInput.svelte";
  import { toggled } from "../../lib/lists";
  import TimeFields from "./TimeFields.svelte";
  import { dispatchOf, moveOf } from "./ask";

  /** Give some fields other values for readers at a time: a dispatch of its own, which is reviewed and planned like others. */
  interface Props {
    entry: Entry;
    onClose: () => void;
  }
  let { entry, onClose }: Props = $props();
  const queries = useQueryClient();
  const specs = $derived((session.type(entry.type)?.fields ?? []).filter((spec) => !spec.read_only));
  let chosen = $state<string[]>([]);
  let values = $state.raw<Record<string, unknown>>({});
  let asked = $state<WhenAsk | null>(null);
  let name = $state("");
  let busy = $state(false);
  let error = $state<unknown>(null);

  const valueOf = (field: string) => (field in values ? values[field] : (entry.fields[field] ?? null));

  async function go(): Promise<void> {
    busy = true;
    error = null;
    const fields = Object.fromEntries(chosen.map((field) => [field, valueOf(field)]));
    const move = moveOf(entry.id, entry.locale, { verb: "set", payload: { fields } });
    const usual = t("dispatch.set.usual", { title: entry.title || t("list.untitled") });
    const body = dispatchOf([move], { open: true, name: name || usual, when: asked });
    try {
      const made = await sure(api.POST("/api/dispatches", { params: { header: once() }, body }));
      onClose();
      await queries.invalidateQueries();
      toasts.say(t("dispatch.set.made"));
      await navigate("/timetable/:id", { params: { id: made.id } });
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open
  size="md"
  title={t("dispatch.set.title")}
  go={t("dispatch.set.go")}
  {busy}
  {error}
  ready={chosen.length > 0}
  onclose={onClose}
  onsubmit={go}
>
  <p class="text-moss">{t("dispatch.set.about")}</p>
  <fieldset class="flex flex-wrap gap-x-5 gap-y-1">
    <legend class="pb-1">{t("dispatch.set.which")}</legend>
    {#each specs as spec (spec.name)}
      <label class="flex items-center gap-2"
        ><Checkbox
          checked={chosen.includes(spec.name)}
          onchange={() => (chosen = toggled(chosen, spec.name))}
        />{spec.label}</label
      >
    {/each}
  </fieldset>
  {#each specs.filter((spec) => chosen.includes(spec.name)) as spec (spec.name)}
    <FieldInput
      {spec}
      {entry}
      version={0}
      within="set"
      readonly={false}
      lacking={false}
      value={valueOf(spec.name)}
      onType={(value) => (values = { ...values, [spec.name]: value })}
    />
  {/each}
  <TimeFields bind:asked {error} />
  <label class="flex flex-col gap-1">{t("plan.name")}<Input bind:value={name} maxlength={120} /></label>
</FormDialog>
