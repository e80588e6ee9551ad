<script lang="ts">
  import type { SegmentTag } from "../../../lib/api";
  import { face, pieces } from "./sentences";
  import { tagName } from "./names";

  /** A sentence with its tags as chips. */
  let { sentence, tags }: { sentence: string; tags: SegmentTag[] } = $props();
</script>

{#each pieces(sentence) as one, n (n)}{#if typeof one === "string"}{one}{:else}<span class="chip"
      >{face(tagName(tags, one.id, one.of), one.how)}</span
    >{/if}{/each}
