<script lang="ts">
  import type { Snippet } from "svelte";
  import HereBar from "../collaboration/HereBar.svelte";
  import type { Entry, Present } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Rail from "../../ui/Rail.svelte";

  /** What this is, where it stands, who else is here, what can be done with it, and its other languages. */
  let { entry, others, children: acts }: { entry: Entry; others: Present[]; children: Snippet } = $props();
  const waits = $derived(
    entry.acts.find((act) => act.act === "sign")?.allowed ? (entry.review?.stage ?? "") : "",
  );
</script>

<div class="flex flex-wrap items-start gap-x-4 gap-y-2 border-b pb-3">
  <div class="min-w-0">
    <p class="text-sm text-moss">
      {entry.type_label}{entry.section ? ` · ${entry.section.title}` : ""}{entry.internal
        ? ` · ${entry.internal}`
        : ""}
    </p>
    <h1 class="text-2xl font-semibold" lang={entry.locale} dir="auto">{entry.title || t("list.untitled")}</h1>
    <Rail beads={entry.rail} planned={entry.planned} {waits} names />
    <HereBar {others} type={entry.type} strand={entry.strand} />
  </div>
  <div class="ms-auto flex flex-wrap items-center gap-2">{@render acts()}</div>
</div>
<nav aria-label={t("entry.locales")} class="flex flex-wrap gap-1 border-b py-2">
  {#each entry.locales as one (one.locale)}
    <a
      href="/entries/{entry.id}/{one.locale}"
      aria-current={one.locale === entry.locale ? "page" : undefined}
      class="flex items-center gap-2 rounded px-2 py-1 {one.locale === entry.locale
        ? 'bg-wash font-semibold'
        : ''} {one.exists ? '' : 'italic'}"
      ><span lang={one.locale}>{one.name}</span>{#if one.exists}<Rail beads={one.rail} />{/if}</a
    >
  {/each}
</nav>
