<script lang="ts">
  import type { Editor } from "../../lib/state/editor.svelte";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Alert from "../../ui/Alert.svelte";
  import Button from "../../ui/Button.svelte";

  /** What has to be known before typing on: what was brought back, that somebody saved, that there is nothing here yet. */
  interface Props {
    editor: Editor;
    /** Whether it waits for the connection. */
    later: boolean;
    onDiscard: () => void;
    onChange: () => void;
  }
  let { editor, later, onDiscard, onChange }: Props = $props();
  const now = $derived(editor.latest);
</script>

<div aria-live="polite" class="flex flex-col gap-2">
  {#if now.archived_at || now.limit.way || now.assisted}
    {#await import("./StateNotices.svelte") then { default: StateNotices }}
      <StateNotices entry={now} {onChange} />
    {/await}
  {/if}
  {#if editor.broughtBack}
    <Alert>
      <span class="flex flex-wrap items-center gap-3"
        >{t("entry.kept")} <Button onclick={onDiscard}>{t("entry.discard")}</Button></span
      >
    </Alert>
  {/if}
  {#if editor.movedOn && !editor.clash}<Alert>{t("entry.movedOn")}</Alert>{/if}
  {#if editor.dirty}<p class="text-sm text-moss">{t(later ? "entry.later" : "entry.unsaved")}</p>{/if}
  {#if !now.exists}<Alert>{t("entry.notThere", { locale: session.locale(now.locale)?.name })}</Alert>{/if}
</div>
