<script lang="ts">
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import LibraryCard from "./LibraryCard.svelte";
  import LibraryFolders from "./LibraryFolders.svelte";
  import { below } from "./folders";
  import { toggled } from "../../lib/lists";
  import SendingLine from "./SendingLine.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, once, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { foldersQuery, libraryQuery } from "./queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { send, Sending, typeFor } from "../../lib/state/uploads.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import FileInput from "../../ui/FileInput.svelte";

  let words = $state("");
  let folder = $state("");
  let type = $state("");
  let cursor = $state("");
  let chosen = $state<string[]>([]);
  let sendings = $state<Sending[]>([]);
  let over = $state(false);
  const queries = useQueryClient();
  const found = libraryQuery(() => ({ words, folder, type, cursor }));
  const folders = foldersQuery();
  const mayWrite = $derived(session.may("write"));
  const types = $derived(
    (session.setup?.types ?? []).filter((one) => one.fields.some((f) => f.kind === "file")),
  );
  const here = $derived(folders.data?.items.find((one) => one.id === folder));
  const tree = $derived(below(folders.data?.items ?? []));

  $effect(() => {
    void [words, folder, type];
    untrack(() => {
      cursor = "";
      chosen = [];
    });
  });

  async function take(files: File[]): Promise<void> {
    const into = folder === "none" ? "" : folder;
    for (const file of files) void takeOne(file, into);
  }

  async function takeOne(file: File, into: string): Promise<void> {
    const sending = new Sending(file.name);
    sendings = [...sendings, sending];
    try {
      const value = await send(file, sending);
      const kind = session.type(typeFor(value.media_type)) ?? types[0];
      const holder = kind?.fields.find((one) => one.kind === "file");
      if (!kind || !holder) return;
      const title = file.name.replace(/\.[^.]+$/, "").replace(/[-_]+/g, " ");
      const made = await sure(
        api.POST("/api/entries", {
          params: { header: once() },
          body: {
            type: kind.name,
            locale: session.setup!.locales[0]!.tag,
            fields: { [kind.title]: title, [holder.name]: value },
            note: "",
          },
        }),
      );
      if (into) await sure(api.POST("/api/library/file", { body: { entries: [made.id], folder: into } }));
      sendings = sendings.filter((one) => one !== sending);
      toasts.say(t("library.taken", { title }));
      await queries.invalidateQueries();
    } catch (error) {
      if (sending.state !== "refused") toasts.wrong(error);
    }
  }

  async function fileInto(target: string, ids: string[] = chosen): Promise<void> {
    if (!ids.length) return;
    try {
      const { was } = await sure(api.POST("/api/library/file", { body: { entries: ids, folder: target } }));
      const into = folders.data?.items.find((one) => one.id === target)?.name ?? t("library.noFolder");
      chosen = [];
      toasts.offer(t("library.filed", { count: ids.length, folder: into }), t("outline.undo"), () =>
        putBack(was),
      );
      await queries.invalidateQueries();
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function putBack(was: Record<string, string>): Promise<void> {
    for (const target of new Set(Object.values(was))) {
      const entries = Object.keys(was).filter((id) => was[id] === target);
      await sure(api.POST("/api/library/file", { body: { entries, folder: target } })).catch(toasts.wrong);
    }
    await queries.invalidateQueries();
  }
</script>

<svelte:head><title>{t("library.title")} – {t("app.name")}</title></svelte:head>
<svelte:window
  onpaste={(event) => {
    if (mayWrite && event.clipboardData?.files.length) void take([...event.clipboardData.files]);
  }}
/>
<div class="flex flex-wrap items-end gap-3 pb-4">
  <h1 class="me-auto text-2xl font-semibold">{t("library.title")}</h1>
  <label class="flex flex-col text-sm"
    >{t("library.search")}<Input class="w-56!" type="search" bind:value={words} /></label
  >
  <label class="flex flex-col text-sm"
    >{t("library.kind")}
    <Select bind:value={type}>
      <option value="">{t("library.any")}</option>
      {#each types as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
    </Select></label
  >
  {#if mayWrite}
    <FileInput
      look="main"
      multiple
      onchange={(event) => {
        void take([...(event.currentTarget.files ?? [])]);
        event.currentTarget.value = "";
      }}>{t("library.upload")}</FileInput
    >
  {/if}
</div>
<div class="grid gap-6 md:grid-cols-[13rem_minmax(0,1fr)]">
  <LibraryFolders {tree} bind:folder carrying={chosen.length > 0} onFile={fileInto} />
  <section
    aria-label={here?.name ?? t("library.title")}
    class="flex min-h-64 min-w-0 flex-col gap-3 rounded {over ? 'outline-3 outline-hedge' : ''}"
    ondragover={(event) => {
      if (!mayWrite || !event.dataTransfer?.types.includes("Files")) return;
      event.preventDefault();
      over = true;
    }}
    ondragleave={() => (over = false)}
    ondrop={(event) => {
      over = false;
      if (!event.dataTransfer?.files.length) return;
      event.preventDefault();
      void take([...event.dataTransfer.files]);
    }}
  >
    {#each sendings as sending (sending)}<SendingLine {sending} />{/each}
    {#if chosen.length}
      <div class="sheet flex flex-wrap items-center gap-3 px-3 py-2" role="status">
        <span>{t("library.chosen", { count: chosen.length })}</span>
        <label class="flex items-center gap-2"
          >{t("library.into")}
          <Select
            class="w-auto!"
            value=""
            onchange={(event) => {
              const target = event.currentTarget.value;
              if (target) void fileInto(target === "none" ? "" : target);
            }}
          >
            <option value="">{t("library.choose")}</option>
            <option value="none">{t("library.noFolder")}</option>
            {#each tree as { folder: one } (one.id)}<option value={one.id}>{one.name}</option>{/each}
          </Select></label
        >
        <Button class="ms-auto" onclick={() => (chosen = [])}>{t("library.unchoose")}</Button>
      </div>
    {/if}
    {#if found.error && !found.data}
      <Trouble error={found.error} again={() => found.refetch()} />
    {:else if !found.data}
      <Waiting lines={5} />
    {:else if !found.data.items.length}
      <div class="sheet p-5">
        <p>{words || type ? t("library.none") : t("library.empty")}</p>
        {#if mayWrite && !words}<p class="text-moss">{t("library.drop")}</p>{/if}
      </div>
    {:else}
      {#if mayWrite}<p class="text-sm text-moss">{t("library.drop")}</p>{/if}
      <ul class="grid grid-cols-[repeat(auto-fill,minmax(11rem,1fr))] gap-3">
        {#each found.data.items as line (`${line.id}/${line.locale}`)}
          <li
            class="sheet flex flex-col gap-1 p-2 {chosen.includes(line.id) ? 'outline-3 outline-hedge' : ''}"
            draggable={mayWrite}
            ondragstart={() => {
              if (!chosen.includes(line.id)) chosen = [...chosen, line.id];
            }}
          >
            <LibraryCard
              {line}
              {mayWrite}
              chosen={chosen.includes(line.id)}
              onPick={() => (chosen = toggled(chosen, line.id))}
            />
          </li>
        {/each}
      </ul>
      <div class="flex gap-2">
        {#if cursor}<Button onclick={() => (cursor = "")}>{t("library.first")}</Button>{/if}
        {#if found.data.next}<Button onclick={() => (cursor = found.data!.next)}>{t("library.next")}</Button
          >{/if}
      </div>
    {/if}
  </section>
</div>
