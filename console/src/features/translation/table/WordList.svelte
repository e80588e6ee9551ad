<script lang="ts">
  import "../../../messages/translation";
  import type { SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import Button from "../../../ui/Button.svelte";
  import { KEYS } from "./names";
  import { nextWord } from "./sentences";

  /** The glossary's words in the sentence at hand, with what they are called; each is put in where the cursor is. */
  interface Props {
    line: SegmentLine;
    /** What is typed so far. */
    typed: string;
    target: string;
    onInsert: (words: string) => void;
  }
  let { line, typed, target, onInsert }: Props = $props();
  const next = $derived(nextWord(line, typed));
</script>

{#if line.words.length}
  <ul class="flex flex-col gap-1 border-t pt-2 text-sm" aria-label={t("table.glossary")}>
    {#each line.words as one (one.start + one.text)}
      <li class="flex flex-wrap items-baseline gap-x-2">
        <span class="glossary-word">{one.text}</span>
        {#each one.targets as term, n (n)}
          {#if term.status === "deprecated"}
            <span class="text-moss"><s lang={target} dir="auto">{term.text}</s> {t("table.notThis")}</span>
          {:else}
            <Button
              class="px-2 py-0 text-sm"
              title={term.text === next ? t("table.withKey", { key: KEYS.word }) : undefined}
              onclick={() => onInsert(term.text)}><span lang={target} dir="auto">{term.text}</span></Button
            >
          {/if}
        {/each}
        {#if one.note}<span class="text-moss">{one.note}</span>{/if}
      </li>
    {/each}
  </ul>
{/if}
