<script lang="ts">
  import type { OutlineLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Button from "../../ui/Button.svelte";
  import ArrowUpDownOutline from "flowbite-svelte-icons/ArrowUpDownOutline.svelte";
  import CalendarPlusOutline from "flowbite-svelte-icons/CalendarPlusOutline.svelte";
  import FileCopyOutline from "flowbite-svelte-icons/FileCopyOutline.svelte";
  import PlusOutline from "flowbite-svelte-icons/PlusOutline.svelte";

  /** What can be done with a line of the outline. */
  interface Props {
    line: OutlineLine;
    tabindex: number;
    busy: boolean;
    onAskMove: (line: OutlineLine) => void;
    onStart: (below: OutlineLine) => void;
    onCopy: (line: OutlineLine) => void;
    onDispatch: (line: OutlineLine) => void;
  }
  let { line, tabindex, busy, onAskMove, onStart, onCopy, onDispatch }: Props = $props();
</script>

<Button
  look="quiet"
  icon={PlusOutline}
  {tabindex}
  label={t("outline.startBelow", { title: line.title })}
  onclick={() => onStart(line)}
/>
{#if line.movable}
  <Button
    look="quiet"
    icon={ArrowUpDownOutline}
    {tabindex}
    label={t("outline.move", { title: line.title })}
    onclick={() => onAskMove(line)}
  />
  <Button
    look="quiet"
    icon={FileCopyOutline}
    {tabindex}
    disabled={busy}
    label={t("outline.copy", { title: line.title })}
    onclick={() => onCopy(line)}
  />
{/if}
<Button
  look="quiet"
  icon={CalendarPlusOutline}
  {tabindex}
  label={t("outline.dispatch", { title: line.title })}
  onclick={() => onDispatch(line)}
/>
