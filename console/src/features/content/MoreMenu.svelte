<script lang="ts">
  import { api, once, sure, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { navigate } from "../../router";
  import Input from "../../ui/Input.svelte";
  import Menu from "../../ui/Menu.svelte";
  import MenuLine from "../../ui/MenuLine.svelte";
  import CalendarPlusOutline from "flowbite-svelte-icons/CalendarPlusOutline.svelte";
  import DotsHorizontalOutline from "flowbite-svelte-icons/DotsHorizontalOutline.svelte";
  import FileCopyOutline from "flowbite-svelte-icons/FileCopyOutline.svelte";
  import RectangleListOutline from "flowbite-svelte-icons/RectangleListOutline.svelte";
  import TrashBinOutline from "flowbite-svelte-icons/TrashBinOutline.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";

  /** What is done with an entry now and then: copied, made a template, removed. */
  let { entry, onRemove }: { entry: Entry; onRemove: () => void } = $props();
  let naming = $state(false);
  let adding = $state(false);
  let name = $state("");
  let error = $state<unknown>(null);

  async function copy(): Promise<void> {
    try {
      const made = await sure(
        api.POST("/api/entries/{id}/copy", {
          params: { path: { id: entry.id }, header: once() },
          body: { fields: {}, note: "" },
        }),
      );
      toasts.say(t("more.copied", { title: made.title }));
      await navigate("/entries/:id/:locale", { params: { id: made.id, locale: made.locale } });
    } catch (caught) {
      toasts.wrong(caught);
    }
  }

  async function template(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    error = null;
    try {
      await sure(
        api.POST("/api/entries/{id}/template", { params: { path: { id: entry.id } }, body: { name } }),
      );
      naming = false;
      toasts.say(t("more.templateMade", { name }));
    } catch (caught) {
      error = caught;
    }
  }
</script>

{#if session.may("write") || session.may("release")}
  <Menu label={t("more.label")} icon={DotsHorizontalOutline}>
    {#if session.may("write")}
      <MenuLine icon={FileCopyOutline} onclick={() => void copy()}>{t("more.copy")}</MenuLine>
      <MenuLine
        icon={RectangleListOutline}
        onclick={() => {
          name = entry.title;
          naming = true;
        }}>{t("more.template")}</MenuLine
      >
    {/if}
    <MenuLine icon={CalendarPlusOutline} onclick={() => (adding = true)}>{t("dispatch.add")}</MenuLine>
    <MenuLine icon={TrashBinOutline} onclick={onRemove}>{t("more.remove")}</MenuLine>
  </Menu>
{/if}

{#if adding}
  {#await import("../release/AddToDispatch.svelte") then { default: AddToDispatch }}
    <AddToDispatch items={[{ id: entry.id, locale: entry.locale }]} onClose={() => (adding = false)} />
  {/await}
{/if}

<FormDialog
  bind:open={naming}
  title={t("more.templateTitle")}
  go={t("more.templateGo")}
  {error}
  onsubmit={template}
>
  <label class="flex flex-col gap-1"
    >{t("more.templateName")}<Input bind:value={name} maxlength={120} required /></label
  >
</FormDialog>
