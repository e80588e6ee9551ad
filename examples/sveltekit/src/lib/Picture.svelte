<script lang="ts">
  import type { ReadFile } from "./museum";

  let { file, mark = {} }: { file: ReadFile; mark?: Record<string, string> } = $props();

  // Wide where there is room, the cut for cards where there is not; each as AVIF and WebP, and in its own kind for the rest.
  const wide = $derived(file.renditions.wide);
  const card = $derived(file.renditions.card);
  const WIDE = "(min-width: 40rem)";
</script>

{#if file.media_type?.startsWith("audio/")}
  <audio controls src={file.href} {...mark}></audio>
{:else if file.media_type?.startsWith("video/")}
  <!-- svelte-ignore a11y_media_has_caption -- they are there where somebody wrote them -->
  <video controls src={file.href} {...mark}>
    {#each file.captions ?? [] as one (one.locale)}<track kind="captions" src={one.href} srclang={one.locale} />{/each}
  </video>
{:else if wide && card}
  <picture>
    <source media={WIDE} type="image/avif" srcset="{card.avif} {card.width}w, {wide.avif} {wide.width}w" sizes="min(100vw, 60rem)" />
    <source media={WIDE} type="image/webp" srcset="{card.webp} {card.width}w, {wide.webp} {wide.width}w" sizes="min(100vw, 60rem)" />
    <source type="image/avif" srcset={card.avif} />
    <source type="image/webp" srcset={card.webp} />
    <img src={wide.original} alt={file.alt} width={wide.width} height={wide.height} {...mark} />
  </picture>
{:else}
  <img src={file.href} alt={file.alt} width={file.width} height={file.height} {...mark} />
{/if}
