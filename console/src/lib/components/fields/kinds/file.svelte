<script lang="ts">
  import { api, once, sure, type FileValue } from "../../../api";
  import { t } from "../../../i18n";
  import { notices } from "../../../state/notices.svelte";
  import type { FieldProps } from "../props";

  let { value, readonly, onType, id }: FieldProps = $props();
  const file = $derived(value as FileValue | undefined);
  let busy = $state(false);

  async function upload(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const picked = event.currentTarget.files?.[0];
    if (!picked) return;
    busy = true;
    const form = new FormData();
    form.set("file", picked);
    try {
      onType(
        await sure(
          api.POST("/api/files", { params: { header: once() }, body: form as unknown as { file: string } }),
        ),
      );
    } catch (error) {
      notices.wrong(error);
    } finally {
      busy = false;
    }
  }
</script>

{#if file}
  <figure class="sheet max-w-md p-2">
    <img src="/api/files/{file.sha256}" alt="" class="max-h-72 w-full rounded object-contain" />
    <figcaption class="pt-1 text-sm text-moss">{file.name} · {file.width} × {file.height}</figcaption>
  </figure>
{/if}
{#if !readonly}
  <input
    {id}
    type="file"
    accept="image/png,image/jpeg,image/webp,image/gif"
    class="field"
    onchange={upload}
    disabled={busy}
  />
  {#if busy}<p role="status">{t("fields.uploading")}</p>{/if}
{/if}
