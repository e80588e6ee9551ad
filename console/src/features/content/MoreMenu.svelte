<script lang="ts">
  import { api, once, sure, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { navigate } from "../../router";
  import Menu from "../../ui/Menu.svelte";
  import MenuLine from "../../ui/MenuLine.svelte";
  import LanguageOutline from "flowbite-svelte-icons/LanguageOutline.svelte";
  import FolderOutline from "flowbite-svelte-icons/FolderOutline.svelte";
  import FileLinesOutline from "flowbite-svelte-icons/FileLinesOutline.svelte";
  import ClockOutline from "flowbite-svelte-icons/ClockOutline.svelte";
  import ChevronRightOutline from "flowbite-svelte-icons/ChevronRightOutline.svelte";
  import CalendarMonthOutline from "flowbite-svelte-icons/CalendarMonthOutline.svelte";
  import DotsHorizontalOutline from "flowbite-svelte-icons/DotsHorizontalOutline.svelte";
  import FileCopyOutline from "flowbite-svelte-icons/FileCopyOutline.svelte";
  import UserCircleOutline from "flowbite-svelte-icons/UserCircleOutline.svelte";
  import TrashBinOutline from "flowbite-svelte-icons/TrashBinOutline.svelte";

  /** What is done with an entry now and then: copied, made a template, removed. */
  let { entry, onAct }: { entry: Entry; onAct: (act: "advance" | "archive" | "remove") => void } = $props();
  let asking = $state<"" | "template" | "add" | "inside" | "set" | "collect" | "limit">("");

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
</script>

{#if session.may("write") || session.may("release") || session.may("commission")}
  <Menu label={t("more.label")} icon={DotsHorizontalOutline}>
    {#if session.may("write")}
      <MenuLine icon={FileCopyOutline} onclick={() => void copy()}>{t("more.copy")}</MenuLine>
      <MenuLine icon={FileLinesOutline} onclick={() => (asking = "template")}>{t("more.template")}</MenuLine>
    {/if}
    <MenuLine icon={CalendarMonthOutline} onclick={() => (asking = "add")}>{t("dispatch.add")}</MenuLine>
    {#if session.may("commission")}
      <MenuLine icon={LanguageOutline} onclick={() => (asking = "collect")}>{t("more.collect")}</MenuLine>
    {/if}
    {#if !entry.archived_at}
      {#if session.may("write") && entry.exists}
        <MenuLine icon={CalendarMonthOutline} onclick={() => (asking = "inside")}>{t("more.inside")}</MenuLine
        >
        <MenuLine icon={ClockOutline} onclick={() => (asking = "set")}>{t("more.set")}</MenuLine>
      {/if}
      <MenuLine icon={ChevronRightOutline} onclick={() => onAct("advance")}>{t("more.advance")}</MenuLine>
      <MenuLine icon={FolderOutline} onclick={() => onAct("archive")}>{t("more.archive")}</MenuLine>
    {/if}
    {#if session.may("release")}
      <MenuLine icon={UserCircleOutline} onclick={() => (asking = "limit")}>{t("more.limit")}</MenuLine>
    {/if}
    <MenuLine icon={TrashBinOutline} onclick={() => onAct("remove")}>{t("more.remove")}</MenuLine>
  </Menu>
{/if}

{#if asking}
  {#await import("./MoreDialogs.svelte") then { default: MoreDialogs }}
    <MoreDialogs {entry} {asking} onClose={() => (asking = "")} />
  {/await}
{/if}
