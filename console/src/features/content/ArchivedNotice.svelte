<script lang="ts">
  import { api, sure } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Alert from "../../ui/Alert.svelte";
  import Button from "../../ui/Button.svelte";

  /** That an entry is in the archive, and the way back. */
  let { id, since, onChange }: { id: string; since: string; onChange: () => void } = $props();
  let busy = $state(false);

  async function bringBack(): Promise<void> {
    busy = true;
    try {
      await sure(api.POST("/api/entries/{id}/bring-back", { params: { path: { id: id } } }));
      toasts.say(t("entry.broughtBack"));
      onChange();
    } catch (error) {
      toasts.wrong(error);
    } finally {
      busy = false;
    }
  }
</script>

<Alert>
  <span class="flex flex-wrap items-center gap-3"
    >{t("entry.archived", { when: when(since) })}
    {#if session.may("write")}<Button {busy} onclick={bringBack}>{t("entry.bringBack")}</Button>{/if}</span
  >
</Alert>
