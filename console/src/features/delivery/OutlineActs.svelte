<script lang="ts" module>
  import type { OutlineLine } from "../../lib/api";

  /** What a line of the outline lets be done with it. */
  export interface LineActs {
    onAskMove: (line: OutlineLine) => void;
    onStart: (below: OutlineLine) => void;
    onCopy: (line: OutlineLine) => void;
    onGather: (line: OutlineLine, into: "dispatch" | "translation") => void;
  }
</script>

<script lang="ts">
  import { t } from "../../lib/i18n";
  import Button from "../../ui/Button.svelte";
  import ArrowUpDownOutline from "flowbite-svelte-icons/ArrowUpDownOutline.svelte";
  import { session } from "../../lib/state/session.svelte";
  import CalendarPlusOutline from "flowbite-svelte-icons/CalendarPlusOutline.svelte";
  import LanguageOutline from "flowbite-svelte-icons/LanguageOutline.svelte";
  import FileCopyOutline from "flowbite-svelte-icons/FileCopyOutline.svelte";
  import PlusOutline from "flowbite-svelte-icons/PlusOutline.svelte";

  /** What can be done with a line of the outline. */
  interface Props extends LineActs {
    line: OutlineLine;
    mayMove: boolean;
    tabindex: number;
    busy: boolean;
  }
  let { line, mayMove, tabindex, busy, onAskMove, onStart, onCopy, onGather }: Props = $props();
</script>

{#if mayMove}
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
    onclick={() => onGather(line, "dispatch")}
  />
{/if}
{#if session.may("commission")}
  <Button
    look="quiet"
    icon={LanguageOutline}
    {tabindex}
    label={t("outline.translate", { title: line.title })}
    onclick={() => onGather(line, "translation")}
  />
{/if}
