<script lang="ts">
  import SendingLine from "../../media/SendingLine.svelte";
  import { api, once, sure, type FileValue, type Named } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { send, Sending } from "../../../lib/state/uploads.svelte";
  import Button from "../../../ui/Button.svelte";
  import Input from "../../../ui/Input.svelte";
  import FileInput from "../../../ui/FileInput.svelte";
  import FormDialog from "../../../ui/FormDialog.svelte";

  let { locale, onMade }: { locale: string; onMade: (made: Named) => void } = $props();
  let open = $state(false);
  let busy = $state(false);
  let error = $state<unknown>(null);
  let file = $state<File | null>(null);
  let sending = $state<Sending | null>(null);
  let title = $state("");
  let alt = $state("");

  function chosen(event: Event & { currentTarget: HTMLInputElement }): void {
    file = event.currentTarget.files?.[0] ?? null;
    if (file && !title) title = file.name.replace(/\.[^.]+$/, "").replace(/[-_]+/g, " ");
  }

  async function make(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!file) return;
    busy = true;
    error = null;
    const one = new Sending(file.name);
    sending = one;
    try {
      const kept = await send(file, one);
      const made = await sure(
        api.POST("/api/entries", {
          params: { header: once() },
          body: { type: "picture", locale, fields: { title, alt, file: kept as FileValue }, note: "" },
        }),
      );
      onMade({ id: made.id, type: "picture", title: made.title, file: kept.sha256 });
      open = false;
      file = null;
      title = alt = "";
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<Button onclick={() => (open = true)}>{t("fields.upload")}</Button>
<FormDialog
  bind:open
  title={t("fields.upload")}
  go={busy ? t("fields.uploading") : t("fields.upload")}
  {busy}
  ready={!!file}
  {error}
  onsubmit={make}
>
  <label class="flex flex-col gap-1"
    >{t("fields.choose")}
    <FileInput accept="image/*" onchange={chosen} required /></label
  >
  <label class="flex flex-col gap-1">{t("fields.pictureTitle")}<Input bind:value={title} required /></label>
  <label class="flex flex-col gap-1">{t("fields.alt")}<Input bind:value={alt} maxlength={250} /></label>
  {#if sending && busy}<SendingLine {sending} />{/if}
</FormDialog>
