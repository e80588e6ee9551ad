<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sendFile, sure, type FileImport } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import FileInput from "../../ui/FileInput.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import ConceptDialog from "./ConceptDialog.svelte";
  import ConceptList from "./ConceptList.svelte";
  import FileImports from "./FileImports.svelte";
  import LookAfter from "./LookAfter.svelte";
  import { glossariesQuery } from "./queries";

  /** The glossaries: what things are called, found by words, and files in and out. */
  const queries = useQueryClient();
  const found = glossariesQuery();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["glossaries"] }));
  let wanted = $state("");
  let words = $state("");
  let locale = $state("");
  let adding = $state(false);
  let name = $state("");
  let writing = $state(false);
  let importing = $state(false);
  const glossary = $derived(found.data?.items.find((one) => one.id === wanted) ?? found.data?.items[0]);

  async function add(): Promise<void> {
    const done = await acting.do(async () => {
      const made = await sure(api.POST("/api/glossaries", { body: { name, note: "", section: "" } }));
      wanted = made.id;
    });
    if (!done) return;
    adding = false;
    name = "";
  }

  function bring(event: Event & { currentTarget: HTMLInputElement }): Promise<boolean> {
    const input = event.currentTarget;
    return acting.do(async () => {
      const file = input.files?.[0];
      if (!file || !glossary) return;
      importing = true;
      try {
        const address = `/api/glossaries/${glossary.id}/file?name=${encodeURIComponent(file.name)}`;
        const body = await sendFile<FileImport>(address, file, "application/x-tbx+xml");
        toasts.say(t("imports.progress", { ...body }));
      } finally {
        importing = false;
        input.value = "";
      }
    });
  }
</script>

{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting lines={4} />
{:else}
  <div class="flex flex-wrap items-end gap-2 pb-3">
    {#if glossary}
      <label class="flex flex-col"
        ><span class="text-sm text-moss">{t("glossaries.which")}</span>
        <Select
          class="w-auto!"
          value={glossary.id}
          onchange={(event) => (wanted = event.currentTarget.value)}
        >
          {#each found.data.items as one (one.id)}<option value={one.id}
              >{one.name} · {t("glossaries.concepts", { count: one.concepts })}</option
            >{/each}
        </Select></label
      >
      <label class="flex min-w-48 flex-1 flex-col"
        ><span class="text-sm text-moss">{t("glossaries.find")}</span>
        <Input type="search" bind:value={words} /></label
      >
      <label class="flex flex-col"
        ><span class="text-sm text-moss">{t("glossaries.language")}</span>
        <Select class="w-auto!" bind:value={locale}>
          <option value="">{t("glossaries.any")}</option>
          {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option
            >{/each}
        </Select></label
      >
    {/if}
    {#if glossary?.may_manage}
      <Button look="main" onclick={() => (writing = true)}>{t("glossaries.addConcept")}</Button>
    {/if}
    {#if session.may("commission")}<Button onclick={() => (adding = true)}>{t("glossaries.add")}</Button>{/if}
    {#if glossary}
      <Button href="/api/glossaries/{glossary.id}/file" download>{t("glossaries.export")}</Button>
      {#if glossary.may_manage}
        <FileInput accept=".tbx,.xml" onchange={bring}
          >{t(importing ? "imports.importing" : "glossaries.import")}</FileInput
        >
        <LookAfter what="glossaries" one={glossary} all={found.data.items} />
      {/if}
    {/if}
  </div>
  {#if acting.error && !adding}<Trouble error={acting.error} />{/if}
  {#if glossary}
    <FileImports what="glossaries" one={glossary} {importing} />
    <ConceptList {glossary} asked={{ words, locale }} />
    {#if writing}<ConceptDialog {glossary} onClose={() => (writing = false)} />{/if}
  {:else}
    <p class="text-moss">{t("glossaries.none")}</p>
  {/if}
  <FormDialog
    bind:open={adding}
    title={t("glossaries.add")}
    go={t("glossaries.add")}
    busy={acting.busy}
    ready={!!name.trim()}
    error={acting.error}
    onsubmit={add}
  >
    <label class="flex flex-col gap-1">{t("glossaries.name")}<Input bind:value={name} required /></label>
  </FormDialog>
{/if}
