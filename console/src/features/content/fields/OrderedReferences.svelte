<script lang="ts">
  import type { Snippet } from "svelte";
  import { t } from "../../../lib/i18n";
  import Handle from "../../../ui/Handle.svelte";
  import Sortable from "../../../ui/Sortable.svelte";

  /** Entries that are referred to, in an order that can be changed. */
  interface Props {
    ids: string[];
    title: (id: string) => string;
    onOrder: (ids: string[]) => void;
    row: Snippet<[string]>;
  }
  let { ids, title, onOrder, row }: Props = $props();
  let said = $state("");
</script>

<p class="sr-only" role="status">{said}</p>
<Sortable
  items={ids.map((id) => ({ id }))}
  named={(one) => title(one.id)}
  class="flex flex-col gap-2"
  within={() => "sheet flex items-center gap-3 px-3 py-2"}
  onOrder={(order, moved, to) => {
    onOrder(order.map((one) => one.id));
    said = t("sort.moved", { what: title(moved.id), place: to + 1, count: ids.length });
  }}
>
  {#snippet children(one, n)}
    <Handle
      id={one.id}
      label={t("blocks.handle", { what: title(one.id), place: n + 1, count: ids.length })}
    />
    {@render row(one.id)}
  {/snippet}
</Sortable>
