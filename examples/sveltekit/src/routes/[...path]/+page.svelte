<script lang="ts">
  import Blocks from "$lib/Blocks.svelte";
  import Cards from "$lib/Cards.svelte";
  import Picture from "$lib/Picture.svelte";

  let { data, form } = $props();
  const entry = $derived(data.entry);
  const head = $derived(data.head);
  // eslint-disable-next-line @typescript-eslint/no-explicit-any -- what all types share is looked for in whichever this is
  const fields = $derived(entry.fields as any);
  const picture = $derived(entry.references[fields.picture ?? ""]?.file);
  const texts = $derived(["body", "life"].filter((name) => fields[name]));
  const others = $derived(entry.locales.filter((one) => one.path && one.locale !== entry.locale));
  const people = $derived(Object.values(entry.references).filter((one) => one.type === "person" && one.path));

  /** What joins a part of a preview to its field; nothing where readers look. */
  const mark = (field: string, name = ""): Record<string, string> =>
    data.stage ? { "data-hawthorn": `${entry.id}/${field}`, ...(name ? { "data-hawthorn-name": name } : {}) } : {};
  const linked = $derived(head?.linked_data ? JSON.stringify(head.linked_data).replaceAll("<", "\\u003c") : "");
</script>

<svelte:head>
  <title>{head?.title || entry.title || "untitled"}</title>
  {#if head?.description}<meta name="description" content={head.description} />{/if}
  {#if head && !head.index}<meta name="robots" content="noindex" />{/if}
  {#each head?.open_graph ?? [] as one, n (n)}<meta property={one.property} content={one.content} />{/each}
  {#each data.stage ? [] : entry.locales as one (one.locale)}
    {#if one.path}<link rel="alternate" hreflang={one.locale} href={one.path} />{/if}
  {/each}
  {#if linked}{@html `<script type="application/ld+json">${linked}</` + "script>"}{/if}
</svelte:head>

<main lang={entry.locale}>
  {#if others.length}
    <p class="locales">{#each others as one (one.locale)}<a href={one.path} lang={one.locale} hreflang={one.locale}>{one.locale}</a> {/each}</p>
  {/if}
  <h1 {...mark("title")}>{entry.title || "untitled"}</h1>
  {#if entry.locked}
    <p>This page is for those who were given a phrase.</p>
    <form method="POST">
      <label>Phrase <input name="phrase" type="password" required maxlength="200" autocomplete="off" aria-describedby="wrong" /></label>
      <button>Open the page</button>
      <p id="wrong" role="alert">{form?.wrong ?? ""}</p>
    </form>
  {:else}
    {#if picture}<Picture file={picture} mark={mark("picture")} />{/if}
    {#if fields.summary}<p class="summary" {...mark("summary")}>{fields.summary}</p>{/if}
    {#each texts as name (name)}<div {...mark(name)}>{@html fields[name]}</div>{/each}
    <Blocks blocks={fields.page ?? []} references={entry.references} {mark} top="page" />
    {#if data.below.length}<Cards items={data.below} />{/if}
    {#if people.length}<p class="people">{#each people as one (one.id)}<a href={one.path}>{one.title}</a> {/each}</p>{/if}
  {/if}
</main>
