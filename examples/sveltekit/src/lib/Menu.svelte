<script lang="ts">
  import type { Menu } from "./museum";

  let { menu }: { menu: Menu } = $props();

  interface Item {
    id: string;
    fields: { label?: string; to?: { href?: string; text?: string }; below?: Item[] };
  }
  const items = $derived((menu.fields.items ?? []) as Item[]);
</script>

{#snippet list(some: Item[])}
  <ul>
    {#each some as one (one.id)}
      <li>
        <a href={one.fields.to?.href}>{one.fields.label || one.fields.to?.text}</a>
        {#if one.fields.below?.length}{@render list(one.fields.below)}{/if}
      </li>
    {/each}
  </ul>
{/snippet}

<nav aria-label={menu.title}>{@render list(items)}</nav>
