<script lang="ts">
  import { dragHandle } from "svelte-dnd-action";
  import { t } from "../lib/i18n";
  import DotsVerticalOutline from "flowbite-svelte-icons/DotsVerticalOutline.svelte";

  /** What a thing of a `Sortable` is taken by. */
  let { id, label }: { id: string; label: string } = $props();
</script>

<span
  use:dragHandle
  role="button"
  aria-label={label}
  title={t("sort.hint")}
  data-handle={id}
  class="inline-grid min-h-8 min-w-8 place-items-center rounded text-moss hover:bg-wash focus-visible:outline-3 focus-visible:outline-slate"
  ><DotsVerticalOutline class="size-5" aria-hidden={true} /></span
>
