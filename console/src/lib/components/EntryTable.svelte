<script lang="ts">
  import Rail from "./Rail.svelte";
  import type { EntryLine } from "../api";
  import { t, when } from "../i18n";
  import { session } from "../state/session.svelte";

  let { lines, label }: { lines: EntryLine[]; label: string } = $props();
</script>

<table class="w-full border-collapse" aria-label={label}>
  <thead class="hidden text-start text-sm text-moss md:table-header-group">
    <tr class="border-b">
      <th class="py-1 text-start font-semibold">{t("list.entry")}</th>
      <th class="text-start font-semibold">{t("list.type")}</th>
      <th class="text-start font-semibold">{t("list.rail")}</th>
      <th class="text-start font-semibold">{t("list.changed")}</th>
    </tr>
  </thead>
  <tbody>
    {#each lines as line (line.id + line.locale)}
      <tr class="flex flex-col border-b py-2 md:table-row">
        <td class="md:py-2 md:pe-4">
          <a
            class="font-serif text-lg font-semibold"
            href="/entries/{line.id}/{line.locale}"
            lang={line.locale}
            dir={session.locale(line.locale)?.rtl ? "rtl" : "ltr"}>{line.title || t("list.untitled")}</a
          >
          {#if line.missing.length}
            <p class="text-sm text-straw">
              {t("list.lacks", { what: line.missing.map((m) => m.label).join(", ") })}
            </p>
          {/if}
        </td>
        <td class="text-sm text-moss md:pe-4 md:whitespace-nowrap">{line.type_label}, {line.locale}</td>
        <td class="md:pe-4"><Rail beads={line.rail} planned={line.planned} /></td>
        <td class="text-sm text-moss md:whitespace-nowrap">{when(line.updated_at)}<br />{line.author}</td>
      </tr>
    {/each}
  </tbody>
</table>
