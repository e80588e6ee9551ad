<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, once, sure, type Folder } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import type { Placed } from "./folders";

  /** The folders of the library: chosen, made, named, removed, and what is carried onto one is filed there. */
  interface Props {
    tree: Placed[];
    folder: string;
    /** Whether files are being carried. */
    carrying: boolean;
    onFile: (target: string) => void;
  }
  let { tree, folder = $bindable(), carrying, onFile }: Props = $props();
  let naming = $state<{ folder: Folder | null } | null>(null);
  let name = $state("");
  const queries = useQueryClient();
  const mayWrite = $derived(session.may("write"));
  const here = $derived(tree.find((one) => one.folder.id === folder)?.folder);

  async function nameFolder(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    try {
      if (naming?.folder)
        await sure(
          api.PATCH("/api/folders/{id}", { params: { path: { id: naming.folder.id } }, body: { name } }),
        );
      else
        await sure(
          api.POST("/api/folders", {
            params: { header: once() },
            body: { name, parent: folder && folder !== "none" ? folder : "" },
          }),
        );
      naming = null;
      await queries.invalidateQueries();
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function removeFolder(one: Folder): Promise<void> {
    try {
      await sure(api.DELETE("/api/folders/{id}", { params: { path: { id: one.id } } }));
      folder = one.parent ?? "";
      toasts.say(t("library.folderRemoved", { name: one.name }));
      await queries.invalidateQueries();
    } catch (error) {
      toasts.wrong(error);
    }
  }
</script>

<nav aria-label={t("library.folders")} class="flex flex-col gap-1">
  {#each [{ id: "", label: t("library.all") }, { id: "none", label: t("library.noFolder") }] as one (one.id)}
    <Button
      look="row"
      class="px-2 py-1 {folder === one.id ? 'bg-wash font-semibold' : ''}"
      aria-current={folder === one.id ? "true" : undefined}
      ondragover={(event) => one.id === "none" && carrying && event.preventDefault()}
      ondrop={() => one.id === "none" && onFile("")}
      onclick={() => (folder = one.id)}>{one.label}</Button
    >
  {/each}
  {#each tree as { folder: one, depth } (one.id)}
    <Button
      look="row"
      class="px-2 py-1 {folder === one.id ? 'bg-wash font-semibold' : ''}"
      aria-current={folder === one.id ? "true" : undefined}
      style="padding-inline-start: {0.5 + depth}rem"
      ondragover={(event) => carrying && event.preventDefault()}
      ondrop={() => onFile(one.id)}
      onclick={() => (folder = one.id)}
      >{one.name} <span class="text-sm font-normal text-moss">{one.entries}</span></Button
    >
  {/each}
  {#if mayWrite}
    <Button
      class="mt-2"
      onclick={() => {
        naming = { folder: null };
        name = "";
      }}>{t(here ? "library.newFolderIn" : "library.newFolder")}</Button
    >
    {#if here}
      {@const one = here}
      <Button
        onclick={() => {
          naming = { folder: one };
          name = one.name;
        }}>{t("library.rename")}</Button
      >
      <Button onclick={() => removeFolder(one)}>{t("library.removeFolder")}</Button>
    {/if}
  {/if}
</nav>
<FormDialog
  open={naming !== null}
  title={t(naming?.folder ? "library.rename" : "library.newFolder")}
  onclose={() => (naming = null)}
  go={t("library.keep")}
  onsubmit={nameFolder}
>
  <label class="flex flex-col gap-1"
    >{t("library.folderName")}<Input bind:value={name} required maxlength={80} /></label
  >
</FormDialog>
