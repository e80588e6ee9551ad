<script lang="ts">
  import type { LibraryLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Rail from "../../ui/Rail.svelte";

  /** A file of the library, with what uses it and what it lacks. */
  let {
    line,
    chosen,
    mayWrite,
    onPick,
  }: { line: LibraryLine; chosen: boolean; mayWrite: boolean; onPick: () => void } = $props();

  function shown(line: LibraryLine): string {
    const file = line.file;
    if (!file?.media_type.startsWith("image/")) return "";
    return `/api/files/${file.sha256}`;
  }
</script>

<div class="relative flex h-32 items-center justify-center rounded bg-wash">
  {#if shown(line)}
    <img src={shown(line)} alt="" loading="lazy" class="max-h-32 max-w-full rounded" />
  {:else}<span class="text-sm text-moss">{line.file?.media_type ?? t("library.noFile")}</span>{/if}
  {#if mayWrite}<Checkbox
      class="absolute start-1 top-1 size-5"
      checked={chosen}
      aria-label={t("library.choosing", { title: line.title })}
      onchange={onPick}
    />{/if}
</div>
<a href="/entries/{line.id}/{line.locale}" lang={line.locale} dir="auto" class="font-semibold break-words"
  >{line.title || t("list.untitled")}</a
>
<span class="text-sm text-moss"
  >{line.type_label}{line.file?.width ? ` · ${line.file.width} × ${line.file.height}` : ""} · {t(
    "library.uses",
    { count: line.uses },
  )}</span
>
{#if line.alt === ""}<span class="text-sm font-semibold text-straw">{t("library.noAlt")}</span>{/if}
<Rail beads={line.rail} planned={line.planned} />
