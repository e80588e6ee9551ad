<script lang="ts">
  import Blocks from "./Blocks.svelte";
  import Cards from "./Cards.svelte";
  import Picture from "./Picture.svelte";
  import type { ReadReference } from "./museum";

  interface Block {
    id: string;
    kind: string;
    // eslint-disable-next-line @typescript-eslint/no-explicit-any -- each kind has fields of its own
    fields: any;
  }
  interface Props {
    blocks: Block[];
    references: Record<string, ReadReference>;
    mark: (field: string, name?: string) => Record<string, string>;
    top: string;
  }
  let { blocks, references, mark, top }: Props = $props();
</script>

{#each blocks as one (one.id)}
  {@const f = one.fields}
  {@const at = `${top}:${one.id}`}
  <div class="block on-{f.background ?? 'paper'} {f.hidden ? `hide-${f.hidden}` : ''}" id={f.anchor}>
    {#if one.kind === "words"}
      <div {...mark(`${at}:text`)}>{@html f.text}</div>
    {:else if one.kind === "quote"}
      <blockquote {...mark(`${at}:said`)}>{f.said} {#if references[f.by]}<cite>{references[f.by].title}</cite>{/if}</blockquote>
    {:else if one.kind === "picture" && references[f.picture]?.file}
      <figure>
        <Picture file={references[f.picture].file!} mark={mark(`${at}:picture`)} />
        <figcaption {...mark(`${at}:caption`)}>{f.caption ?? ""}</figcaption>
      </figure>
    {:else if one.kind === "beside"}
      <div class="row">{#each f.cells ?? [] as cell (cell.id)}<div><Blocks blocks={[cell]} {references} {mark} {top} /></div>{/each}</div>
    {:else if one.kind === "row"}
      <div class="row">
        {#each f.columns ?? [] as column (column.id)}
          <div style:flex-grow={column.fields.width ?? 6}><Blocks blocks={column.fields.content ?? []} {references} {mark} {top} /></div>
        {/each}
      </div>
    {:else if one.kind === "listing"}
      <section {...mark(`${at}:list`)}>
        {#if f.heading}<h2 {...mark(`${at}:heading`)}>{f.heading}</h2>{/if}
        <Cards items={f.list?.items ?? []} />
      </section>
    {:else if one.kind === "kept" && references[f.block]?.fields}
      <Blocks blocks={(references[f.block].fields!.content ?? []) as Block[]} {references} {mark} {top} />
    {/if}
  </div>
{/each}
