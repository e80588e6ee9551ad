<script lang="ts">
  import type { OutlineLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Select from "../../ui/Select.svelte";

  /** Where a line is to go, chosen from what is open in the tree: what dragging does, without dragging. */
  interface Props {
    moving: OutlineLine | null;
    targets: OutlineLine[];
    onMove: (line: OutlineLine, below: string) => void;
  }
  let { moving = $bindable(), targets, onMove }: Props = $props();
  let target = $state("");
  $effect(() => {
    if (moving) target = "";
  });
</script>

<FormDialog
  open={moving !== null}
  title={t("outline.move", { title: moving?.title ?? "" })}
  go={t("outline.doMove")}
  onclose={() => (moving = null)}
  onsubmit={() => {
    const line = moving;
    moving = null;
    if (line) onMove(line, target);
  }}
>
  <label class="flex flex-col gap-1"
    >{t("outline.below")}
    <Select bind:value={target}>
      <option value="">{t("outline.top")}</option>
      {#each targets as one (one.id)}<option value={one.id}>{one.title || t("list.untitled")}</option>{/each}
    </Select></label
  >
  <p class="text-sm text-moss">{t("outline.moveAbout")}</p>
</FormDialog>
