<script lang="ts">
  import { api, sure, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";

  /** Fork a strand from what is open. */
  interface Props {
    entry: Entry;
    onClose: () => void;
    onDone: (strand: string) => void;
  }
  let { entry, onClose, onDone }: Props = $props();
  let name = $state("");
  let note = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);

  async function fork(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      const path = { id: entry.id, locale: entry.locale };
      const made = await sure(
        api.POST("/api/entries/{id}/{locale}/strands", {
          params: { path },
          body: { name, note, revision: entry.strand !== "draft" ? (entry.revision?.number ?? null) : null },
        }),
      );
      onClose();
      onDone(made.strand);
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open
  onclose={onClose}
  title={t("strands.forkTitle")}
  go={t("strands.forkGo")}
  {busy}
  {error}
  onsubmit={fork}
>
  <p class="text-moss">{t("strands.about")}</p>
  <label class="flex flex-col gap-1"
    >{t("strands.name")}<Input bind:value={name} maxlength={60} required /></label
  >
  <label class="flex flex-col gap-1">{t("strands.note")}<Input bind:value={note} /></label>
</FormDialog>
