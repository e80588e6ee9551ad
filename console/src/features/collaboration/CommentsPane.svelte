<script lang="ts">
  import { untrack } from "svelte";
  import CommentItem from "./CommentItem.svelte";
  import MentionBox from "./MentionBox.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { api, sure, type Entry, type Comment } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { focusMark } from "../../lib/state/preview.svelte";
  import { session } from "../../lib/state/session.svelte";
  import type { Comments } from "../../lib/state/comments.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";

  let { comments, entry }: { comments: Comments; entry: Entry } = $props();
  let text = $state("");
  const acting = new Acting(() => comments.load());
  let settled = $state(false);
  const order = $derived(["", ...(session.type(entry.type)?.fields ?? []).map((field) => field.name)]);
  const listed = $derived(
    comments.all
      .filter((one) => settled || !one.resolved_at || one.id === comments.at)
      .toSorted((a, b) => place(a) - place(b)),
  );
  const resolved = $derived(comments.all.filter((one) => one.resolved_at).length);
  const label = $derived(
    session.type(entry.type)?.fields.find((one) => one.name === comments.field)?.label ?? "",
  );

  function place(one: Comment): number {
    return order.indexOf(one.field.split(":")[0]!);
  }

  // Whoever asked for a comment, or to make one, is led to it.
  $effect(() => {
    if (!comments.opened) return;
    const id = untrack(() => comments.at);
    setTimeout(() => {
      if (id) document.getElementById(`comment-${id}`)?.scrollIntoView({ block: "nearest" });
      else document.getElementById("new-comment")?.focus();
    }, 50);
  });

  async function make(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const body = { text, field: comments.field, quote: comments.quote, strand: entry.strand };
    const params = { path: { id: entry.id, locale: entry.locale } };
    if (await acting.do(() => sure(api.POST("/api/entries/{id}/{locale}/comments", { params, body })))) {
      text = "";
      comments.field = "";
      comments.quote = null;
      toasts.say(t("comments.said"));
    }
  }
</script>

<div class="flex flex-col gap-4">
  <form class="flex flex-col gap-2" onsubmit={make}>
    {#if comments.field}
      <p class="flex flex-wrap items-center gap-2 text-sm">
        <span>{t("comments.about", { field: label })}</span>
        {#if comments.quote}<q class="bg-wash px-1 font-serif">{comments.quote.exact}</q>{/if}
        <Button
          look="link"
          onclick={() => {
            comments.field = "";
            comments.quote = null;
          }}>{t("comments.aboutAll")}</Button
        >
      </p>
    {/if}
    <MentionBox id="new-comment" bind:value={text} label={t("comments.new")} />
    {#if acting.error}<Trouble error={acting.error} />{/if}
    <Button look="main" type="submit" class="self-start" disabled={acting.busy || !text.trim()}
      >{t("comments.say")}</Button
    >
  </form>
  <ul class="flex flex-col gap-3" aria-label={t("comments.title")}>
    {#each listed as one (one.id)}
      <CommentItem {one} busy={acting.busy} act={acting.do} here={comments.at === one.id}>
        {#if comments.elsewhere(one)}
          <p class="text-sm">
            {#if one.field}{one.label}{/if}
            {#if one.passage}<q class="bg-wash px-1 font-serif">{one.passage.quote}</q>{/if}
            <a
              href="/entries/{entry.id}/{entry.locale}/strands/{encodeURIComponent(
                one.strand,
              )}?comment={one.id}">{t("comments.inStrand", { strand: one.strand })}</a
            >
          </p>
        {:else if one.field}
          <p class="text-sm">
            <Button look="link" onclick={() => focusMark(one.field)}>{one.label}</Button>
            {#if one.passage}
              <q class="bg-wash px-1 font-serif {one.passage.gone ? 'line-through' : ''}"
                >{one.passage.gone ? one.passage.quote : one.passage.now}</q
              >
              {#if one.passage.gone}<span class="font-semibold text-straw">{t("comments.gone")}</span>
              {:else if one.passage.now !== one.passage.quote}<span
                  >{t("comments.was")} <q class="font-serif">{one.passage.quote}</q></span
                >{/if}
            {/if}
          </p>
        {/if}
      </CommentItem>
    {:else}
      <li class="text-moss">{t("comments.none")}</li>
    {/each}
  </ul>
  {#if resolved}
    <label class="flex items-center gap-2 text-sm"
      ><Checkbox bind:checked={settled} />{t("comments.showResolved", {
        count: resolved,
      })}</label
    >
  {/if}
</div>
