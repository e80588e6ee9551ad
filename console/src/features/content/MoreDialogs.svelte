<script lang="ts">
  import { untrack } from "svelte";
  import { api, sure, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import AddToDispatch from "../release/AddToDispatch.svelte";
  import SetDialog from "../release/SetDialog.svelte";
  import WriteInside from "../release/WriteInside.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";

  /** What is asked for before an act that is done now and then. */
  interface Props {
    entry: Entry;
    asking: "template" | "add" | "inside" | "set" | "collect" | "limit";
    onClose: () => void;
  }
  let { entry, asking, onClose }: Props = $props();
  let name = $state(untrack(() => entry.title));
  let error = $state<unknown>(null);
  const item = $derived({ id: entry.id, locale: entry.locale });

  async function template(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    error = null;
    try {
      await sure(
        api.POST("/api/entries/{id}/template", { params: { path: { id: entry.id } }, body: { name } }),
      );
      onClose();
      toasts.say(t("more.templateMade", { name }));
    } catch (caught) {
      error = caught;
    }
  }
</script>

{#if asking === "add"}
  <AddToDispatch items={[item]} {onClose} />
{:else if asking === "collect"}
  {#await import("../translation/CollectDialog.svelte") then { default: CollectDialog }}
    <CollectDialog entries={[entry.id]} pages {onClose} />
  {/await}
{:else if asking === "limit"}
  {#await import("../delivery/LimitDialog.svelte") then { default: LimitDialog }}
    <LimitDialog {entry} {onClose} />
  {/await}
{:else if asking === "inside"}
  <WriteInside entry={item} {onClose} />
{:else if asking === "set"}
  <SetDialog {entry} {onClose} />
{:else}
  <FormDialog
    open
    title={t("more.templateTitle")}
    go={t("more.templateGo")}
    {error}
    onclose={onClose}
    onsubmit={template}
  >
    <label class="flex flex-col gap-1"
      >{t("more.templateName")}<Input bind:value={name} maxlength={120} required /></label
    >
  </FormDialog>
{/if}
