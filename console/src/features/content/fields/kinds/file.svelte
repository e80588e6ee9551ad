<script lang="ts">
  import type { FileValue } from "../../../../lib/api";
  import { t } from "../../../../lib/i18n";
  import { toasts } from "../../../../lib/state/toasts.svelte";
  import { send, Sending } from "../../../../lib/state/uploads.svelte";
  import FocalPoint from "../FocalPoint.svelte";
  import SendingLine from "../../../media/SendingLine.svelte";
  import type { FieldProps } from "../props";
  import Button from "../../../../ui/Button.svelte";
  import FileInput from "../../../../ui/FileInput.svelte";

  let { value, readonly, onType, id }: FieldProps = $props();
  const file = $derived(value as FileValue | undefined);
  let sending = $state<Sending | null>(null);
  let over = $state(false);

  async function upload(picked: File | undefined): Promise<void> {
    if (!picked || readonly) return;
    const one = new Sending(picked.name);
    sending = one;
    try {
      onType(await send(picked, one));
      sending = null;
    } catch (error) {
      toasts.wrong(error);
    }
  }

  function focus(point: [number, number] | null): void {
    if (!file) return;
    onType({ ...file, focus: point ?? undefined });
  }
</script>

<div
  role="group"
  aria-labelledby="{id}-label"
  class="flex flex-col gap-2 rounded {over ? 'outline-3 outline-hedge' : ''}"
  ondragover={(event) => {
    if (readonly || !event.dataTransfer?.types.includes("Files")) return;
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    if (!event.dataTransfer?.files.length) return;
    event.preventDefault();
    over = false;
    void upload(event.dataTransfer.files[0]);
  }}
  onpaste={(event) => {
    const pasted = event.clipboardData?.files[0];
    if (pasted) void upload(pasted);
  }}
>
  {#if file}
    <div class="sheet p-2">
      {#if file.width && file.media_type !== "image/svg+xml"}
        <FocalPoint {file} {readonly} onFocus={focus} />
      {:else if file.media_type.startsWith("image/")}
        <img src="/api/files/{file.sha256}" alt="" class="max-h-72 rounded" />
      {:else if file.media_type.startsWith("audio/")}
        <audio controls src="/api/files/{file.sha256}" class="w-full"></audio>
      {:else if file.media_type.startsWith("video/")}
        <!-- svelte-ignore a11y_media_has_caption -->
        <video controls src="/api/files/{file.sha256}" class="max-h-72"></video>
      {/if}
      <p class="pt-1 text-sm text-moss">
        <a href="/api/files/{file.sha256}" target="_blank" rel="noreferrer">{file.name}</a> ·
        {file.media_type}{file.width ? ` · ${file.width} × ${file.height}` : ""} ·
        {t("files.bytes", { count: Math.ceil(file.bytes / 1024) })}
      </p>
    </div>
  {/if}
  {#if sending}<SendingLine {sending} />{/if}
  {#if !readonly}
    <label class="flex flex-wrap items-center gap-2"
      ><span class="text-sm text-moss">{t("files.drop")}</span>
      <FileInput
        {id}
        onchange={(event) => upload(event.currentTarget.files?.[0])}
        disabled={sending?.state === "going"}
      /></label
    >
    {#if file}<Button class="self-start" onclick={() => onType(null)}>{t("files.remove")}</Button>{/if}
  {/if}
</div>
