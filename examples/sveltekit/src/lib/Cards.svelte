<script lang="ts">
  interface Card {
    id: string;
    title: string;
    locale: string;
    path: string | null;
    summary?: string;
  }
  let { items }: { items: Card[] } = $props();
</script>

<ul class="cards">
  {#each items as one (one.id)}
    <li lang={one.locale}>
      {#if one.path}<a href={one.path}>{one.title || "untitled"}</a>{:else}{one.title || "untitled"}{/if}
      {#if one.summary}<p>{one.summary}</p>{/if}
    </li>
  {:else}
    <li>Nothing at present.</li>
  {/each}
</ul>
