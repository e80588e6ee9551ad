<script lang="ts">
  import type { Present } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import UserOutline from "flowbite-svelte-icons/UserOutline.svelte";

  /** Who else has this entry open, and where they are in it. */
  let { others, type, strand }: { others: Present[]; type: string; strand: string } = $props();
  const people = $derived([...new Map(others.map((one) => [one.handle, one])).values()]);

  function where(one: Present): string {
    const field = session.type(type)?.fields.find((spec) => spec.name === one.field)?.label;
    const values = { who: one.name, field, locale: session.locale(one.locale)?.name ?? one.locale };
    const how = field ? (one.typing ? "types" : "in") : "open";
    if (one.handle !== session.me?.handle) return t(`here.${how}`, values);
    return t(`here.you${how[0]!.toUpperCase()}${how.slice(1)}`, values);
  }

  /** The strand that somebody is on, where it is another than the one that is looked at. */
  function beside(one: Present): string[] {
    if (one.strand === strand) return [];
    return [one.strand === "draft" ? t("strands.draft") : t("here.strand", { strand: one.strand })];
  }
</script>

<div role="status" class="flex flex-wrap gap-2 {people.length ? 'pt-1' : ''}">
  {#each people as one (one.page)}
    <span class="inline-flex items-center gap-1.5 rounded bg-wash px-2 py-0.5 text-sm">
      <UserOutline class="size-4 text-slate" />{[where(one), ...beside(one)].join(" · ")}
    </span>
  {/each}
</div>
