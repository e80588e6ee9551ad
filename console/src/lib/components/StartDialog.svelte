<script lang="ts">
  import { Modal } from "flowbite-svelte";
  import Trouble from "./Trouble.svelte";
  import { api, once, sure } from "../api";
  import { t } from "../i18n";
  import { session } from "../state/session.svelte";
  import { navigate } from "../../router";

  let { open = $bindable(false) }: { open: boolean } = $props();
  const types = $derived(session.setup?.types ?? []);
  let type = $state("");
  let title = $state("");
  let locale = $state("en");
  let error = $state<unknown>(null);
  let busy = $state(false);
  const chosen = $derived(types.find((one) => one.name === type) ?? types[0]);

  async function go(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!chosen) return;
    busy = true;
    error = null;
    try {
      const entry = await sure(
        api.POST("/api/entries", {
          params: { header: once() },
          body: { type: chosen.name, locale, fields: title ? { [chosen.title]: title } : {}, note: "" },
        }),
      );
      open = false;
      title = "";
      await navigate("/entries/:id/:locale", { params: { id: entry.id, locale } });
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<Modal bind:open title={t("start.title")} size="sm">
  <form class="flex flex-col gap-4" onsubmit={go}>
    <label class="flex flex-col gap-1"
      >{t("start.type")}
      <select class="field" value={chosen?.name} onchange={(event) => (type = event.currentTarget.value)}>
        {#each types as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
      </select>
    </label>
    {#if chosen?.help}<p class="-mt-2 text-sm text-moss">{chosen.help}</p>{/if}
    <label class="flex flex-col gap-1"
      >{t("start.name")}<input class="field" bind:value={title} maxlength="300" /></label
    >
    <label class="flex flex-col gap-1"
      >{t("start.locale")}
      <select class="field" bind:value={locale}>
        {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option
          >{/each}
      </select>
    </label>
    {#if error}<Trouble {error} />{/if}
    <div class="flex justify-end gap-2">
      <button type="button" class="act" onclick={() => (open = false)}>{t("start.cancel")}</button>
      <button class="act main" disabled={busy}>{t("start.go")}</button>
    </div>
  </form>
</Modal>
