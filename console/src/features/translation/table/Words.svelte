<script lang="ts">
  import type { SegmentTag } from "../../../lib/api";
  import { face, marked } from "./sentences";
  import { tagName } from "./names";

  /** A sentence with its tags as chips, and the words marked that a glossary knows. */
  interface Props {
    sentence: string;
    tags: SegmentTag[];
    words?: { start: number; end: number }[];
  }
  let { sentence, tags, words = [] }: Props = $props();
</script>

{#each marked(sentence, words) as one, n (n)}{#if typeof one === "string"}{one}{:else if "word" in one}<span
      class="glossary-word">{one.word}</span
    >{:else}<span class="chip">{face(tagName(tags, one.id, one.of), one.how)}</span>{/if}{/each}
