<script lang="ts">
  import { Modal } from "flowbite-svelte";
  import Trouble from "./Trouble.svelte";
  import { api, once, sure, type Entry } from "../api";
  import { t } from "../i18n";
  import { toasts } from "../state/toasts.svelte";
  import { session } from "../state/session.svelte";
  import { navigate } from "../../router";

  /** What is done with an entry now and then: copied, made a template, removed. */
  let { entry, onRemove }: { entry: Entry; onRemove: () => void } = $props();
  let naming = $state(false);
  let name = $state("");
  let error = $state<unknown>(null);
  let menu = $state<HTMLDetailsElement>();

  async function copy(): Promise<void> {
    if (menu) menu.open = false;
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
  <details class="relative" bind:this={menu}>
    <summary class="act list-none" aria-label={t("more.label")}>{t("more.mark")}</summary>
    <div class="sheet absolute end-0 z-30 mt-1 flex w-60 flex-col p-1 shadow-lg">
      {#if session.may("write")}
        <button class="rounded px-3 py-2 text-start hover:bg-wash" onclick={copy}>{t("more.copy")}</button>
        <button
          class="rounded px-3 py-2 text-start hover:bg-wash"
          onclick={() => {
            if (menu) menu.open = false;
            name = entry.title;
            naming = true;
          }}>{t("more.template")}</button
        >
      {/if}
      <button
        class="rounded px-3 py-2 text-start hover:bg-wash"
        onclick={() => {
          if (menu) menu.open = false;
          onRemove();
        }}>{t("more.remove")}</button
      >
    </div>
  </details>
{/if}

<Modal bind:open={naming} title={t("more.templateTitle")} size="sm">
  <form class="flex flex-col gap-4" onsubmit={template}>
    <label class="flex flex-col gap-1"
      >{t("more.templateName")}<input class="field" bind:value={name} maxlength="120" required /></label
    >
    {#if error}<Trouble {error} />{/if}
    <div class="flex justify-end gap-2">
      <button type="button" class="act" onclick={() => (naming = false)}>{t("start.cancel")}</button>
      <button class="act main">{t("more.templateGo")}</button>
    </div>
  </form>
</Modal>
