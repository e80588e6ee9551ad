<script lang="ts">
  import { t } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import type { Kept } from "../../lib/state/kept.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Popover from "../../ui/Popover.svelte";
  import Radio from "../../ui/Radio.svelte";
  import AdjustmentsHorizontalOutline from "flowbite-svelte-icons/AdjustmentsHorizontalOutline.svelte";
  import { COLUMNS, type Column } from "./EntryTable.svelte";

  /** How a list is looked at: its columns, and how close its lines stand. This browser remembers it. */
  let {
    columns,
    density,
    usual,
    asked,
  }: {
    columns: Kept<Column[]>;
    density: Kept<"close" | "wide">;
    usual: Column[];
    asked: Record<string, unknown>;
  } = $props();
  const query = $derived(
    new URLSearchParams(
      Object.entries(asked).flatMap(([name, value]) => (value ? [[name, String(value)]] : [])),
    ).toString(),
  );
</script>

<Popover title={t("list.view")} icon={AdjustmentsHorizontalOutline} within="w-64 p-3">
  <fieldset class="flex flex-col gap-1.5">
    <legend class="pb-1 font-semibold">{t("list.columns")}</legend>
    {#each COLUMNS as one (one)}
      <Checkbox
        checked={columns.value.includes(one)}
        onchange={() => (columns.value = toggled(columns.value, one))}>{t(`list.column_${one}`)}</Checkbox
      >
    {/each}
  </fieldset>
  <fieldset class="mt-4 flex flex-col gap-1.5">
    <legend class="pb-1 font-semibold">{t("list.density")}</legend>
    {#each ["wide", "close"] as const as one (one)}
      <Radio name="density" value={one} group={density.value} onchange={() => (density.value = one)}
        >{t(`list.density_${one}`)}</Radio
      >
    {/each}
  </fieldset>
  <Button look="link" class="mt-4 text-sm" onclick={() => (columns.value = usual)}>{t("list.usual")}</Button>
  <p class="mt-4 flex flex-col gap-1">
    <span class="font-semibold">{t("list.asTable")}</span>
    {#each ["csv", "xlsx"] as format (format)}
      <a href="/api/sheets/entries.{format}?{query}" download="entries.{format}">{format.toUpperCase()}</a>
    {/each}
  </p>
</Popover>
