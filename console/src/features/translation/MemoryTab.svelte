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
  import LookAfter from "./LookAfter.svelte";
  import FileImports from "./FileImports.svelte";
  import MemorySentences from "./MemorySentences.svelte";
  import { memoriesQuery } from "./queries";

  /** The translation memories: what is in one, found by words, and files in and out. */
  const queries = useQueryClient();
  const found = memoriesQuery();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["memories"] }));
  let wanted = $state("");
  let words = $state("");
  let source = $state("");
  let target = $state("");
  let adding = $state(false);
  let name = $state("");
  let importing = $state(false);
  const memory = $derived(found.data?.items.find((one) => one.id === wanted) ?? found.data?.items[0]);

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const done = await acting.do(async () => {
      const made = await sure(api.POST("/api/memories", { body: { name, note: "", section: "" } }));
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
      if (!file || !memory) return;
      importing = true;
      try {
        const address = `/api/memories/${memory.id}/file?name=${encodeURIComponent(file.name)}`;
        const body = await sendFile<FileImport>(address, file, "application/x-tmx+xml");
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
    {#if memory}
      <label class="flex flex-col"
        ><span class="text-sm text-moss">{t("memories.which")}</span>
        <Select class="w-auto!" value={memory.id} onchange={(event) => (wanted = event.currentTarget.value)}>
          {#each found.data.items as one (one.id)}<option value={one.id}
              >{one.name} · {t("memories.sentences", { count: one.units })}</option
            >{/each}
        </Select></label
      >
      <label class="flex min-w-48 flex-1 flex-col"
        ><span class="text-sm text-moss">{t("memories.find")}</span>
        <Input type="search" bind:value={words} /></label
      >
      {@render language("memories.source", source, (tag) => (source = tag))}
      {@render language("memories.target", target, (tag) => (target = tag))}
    {/if}
    {#if session.may("commission")}<Button onclick={() => (adding = true)}>{t("memories.add")}</Button>{/if}
    {#if memory}
      <Button href="/api/memories/{memory.id}/file?source={source}&target={target}" download
        >{t("memories.export")}</Button
      >
      {#if memory.may_manage}
        <FileInput accept=".tmx,.xml" onchange={bring}
          >{t(importing ? "imports.importing" : "memories.import")}</FileInput
        >
        <LookAfter what="memories" one={memory} all={found.data.items} />
      {/if}
    {/if}
  </div>
  {#if acting.error && !adding}<Trouble error={acting.error} />{/if}
  {#if memory}
    <FileImports what="memories" one={memory} {importing} />
    <MemorySentences {memory} asked={{ words, source, target }} />
  {:else}
    <p class="text-moss">{t("memories.none")}</p>
  {/if}
  <FormDialog
    bind:open={adding}
    title={t("memories.add")}
    go={t("memories.add")}
    busy={acting.busy}
    ready={!!name.trim()}
    error={acting.error}
    onsubmit={add}
  >
    <label class="flex flex-col gap-1">{t("memories.name")}<Input bind:value={name} required /></label>
  </FormDialog>
{/if}

{#snippet language(label: string, value: string, choose: (tag: string) => void)}
  <label class="flex flex-col"
    ><span class="text-sm text-moss">{t(label)}</span>
    <Select class="w-auto!" {value} onchange={(event) => choose(event.currentTarget.value)}>
      <option value="">{t("memories.any")}</option>
      {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option>{/each}
    </Select></label
  >
{/snippet}
