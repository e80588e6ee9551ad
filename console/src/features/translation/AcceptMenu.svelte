<script lang="ts">
  import "../../messages/translation";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import { chosen } from "../release/ask";
  import WhichDispatch from "../release/WhichDispatch.svelte";

  /** Accepts all of a job, and lets it go on: out at once, or into a dispatch. */
  interface Props {
    busy: boolean;
    error: unknown;
    onAccept: (onward?: { release?: boolean; dispatch?: string }) => Promise<boolean>;
  }
  let { busy, error, onAccept }: Props = $props();
  let asking = $state(false);
  let into = $state("");
  let name = $state("");
  let wrong = $state<unknown>(null);

  async function go(): Promise<void> {
    wrong = null;
    try {
      // What comes next may be refused: the same dispatch is meant when it is tried again.
      into = await chosen(into, name);
      if (await onAccept({ dispatch: into })) asking = false;
      else wrong = error;
    } catch (caught) {
      wrong = caught;
    }
  }
</script>

<Button look="main" disabled={busy} onclick={() => void onAccept()}>{t("jobs.acceptAll")}</Button>
{#if session.may("release")}
  <Button disabled={busy} onclick={() => void onAccept({ release: true })}>{t("jobs.acceptRelease")}</Button>
{/if}
{#if session.may("write") || session.may("release")}
  <Button disabled={busy} onclick={() => (asking = true)}>{t("jobs.acceptInto")}</Button>
{/if}
{#if asking}
  <FormDialog
    open
    title={t("jobs.acceptInto")}
    go={t("jobs.acceptAll")}
    {busy}
    error={wrong}
    ready={!!into || name.trim() !== ""}
    onclose={() => (asking = false)}
    onsubmit={go}
  >
    <WhichDispatch bind:into bind:name />
  </FormDialog>
{/if}
