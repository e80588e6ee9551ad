<script lang="ts">
  import { invalidateAll } from "$app/navigation";
  import { onMount } from "svelte";
  import "../app.css";
  import Menu from "$lib/Menu.svelte";

  let { data, children } = $props();

  // In a preview the console says when something changed; this page loads its data again in place of being laid over.
  onMount(() => {
    const again = (event: Event) => {
      event.preventDefault();
      void invalidateAll();
    };
    window.addEventListener("hawthorn:changed", again);
    return () => window.removeEventListener("hawthorn:changed", again);
  });
</script>

<svelte:head>
  {#if data.stage}
    <meta name="robots" content="noindex" />
    <script src="{data.service}/preview/marks.js" defer></script>
  {:else}
    <link rel="alternate" type="application/atom+xml" href="/feed.atom?locale={data.locale}" title="The museum" />
  {/if}
</svelte:head>

{#if data.stage}<p class="draft" role="status">Preview: what is at “{data.stage}”, not what readers see.</p>{/if}
<header>
  <a class="home" href="/{data.locale}">Pellgrave Harbour Museum</a>
  {#if data.menu?.type === "menu"}<Menu menu={data.menu} />{/if}
</header>
{@render children()}
<footer><small>An invented museum, drawn by SvelteKit from what Hawthorn has out.</small></footer>
