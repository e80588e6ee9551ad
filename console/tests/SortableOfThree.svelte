<script lang="ts">
  import Handle from "../src/ui/Handle.svelte";
  import Sortable from "../src/ui/Sortable.svelte";

  let { onOrder }: { onOrder: (order: string[]) => void } = $props();
  let items = $state.raw(["a", "b", "c"].map((id) => ({ id })));
</script>

<Sortable
  {items}
  named={(one) => one.id}
  onOrder={(next) => {
    items = next;
    onOrder(next.map((one) => one.id));
  }}
>
  {#snippet children(one)}<Handle id={one.id} label={`Move ${one.id}`} />{/snippet}
</Sortable>
