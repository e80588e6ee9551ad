<script lang="ts">
  import type { Snippet } from "svelte";
  import MentionBox from "./MentionBox.svelte";
  import { api, sure, type Comment } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";

  /** One comment with what was replied, and what can be done with it. */
  interface Props {
    one: Comment;
    /** Whether somebody was led to it. */
    here?: boolean;
    busy: boolean;
    /** Does something and shows what became of it; says whether it worked. */
    act: (does: () => Promise<unknown>) => Promise<boolean>;
    /** What it is on. */
    children?: Snippet;
  }
  let { one, here = false, busy, act, children }: Props = $props();
  let text = $state("");
  const params = $derived({ path: { id: one.id } });

  async function answer(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await act(() => sure(api.POST("/api/comments/{id}/reply", { params, body: { text } })))) text = "";
  }

  async function resolve(): Promise<void> {
    if (await act(() => sure(api.POST("/api/comments/{id}/resolve", { params })))) {
      toasts.offer(t("comments.resolved"), t("comments.undo"), () => void reopen());
    }
  }

  async function reopen(): Promise<void> {
    await act(() => sure(api.POST("/api/comments/{id}/reopen", { params })));
  }
</script>

<li
  id="comment-{one.id}"
  class="sheet flex flex-col gap-2 p-3 {here ? 'border-s-4 border-s-slate' : ''} {one.resolved_at
    ? 'text-moss'
    : ''}"
>
  {@render children?.()}
  <div>
    <p class="text-sm text-moss">
      <span class="font-semibold text-ink">{one.by}</span> · {when(one.at)}
    </p>
    <p class="whitespace-pre-line">{one.text}</p>
  </div>
  {#each one.replies as reply, n (n)}
    <div class="border-s-2 ps-3">
      <p class="text-sm text-moss">
        <span class="font-semibold text-ink">{reply.by}</span> · {when(reply.at)}
      </p>
      <p class="whitespace-pre-line">{reply.text}</p>
    </div>
  {/each}
  {#if one.resolved_at}
    <p class="flex flex-wrap items-center gap-2 text-sm">
      {t("comments.resolvedBy", { by: one.resolved_by, when: when(one.resolved_at) })}
      <Button disabled={busy} onclick={reopen}>{t("comments.reopen")}</Button>
    </p>
  {:else}
    <form class="flex flex-col gap-1" onsubmit={answer}>
      <MentionBox
        id="answer-{one.id}"
        rows={1}
        bind:value={text}
        label={t("comments.answerTo", { who: one.by })}
      />
      <div class="flex flex-wrap gap-2">
        <Button type="submit" disabled={busy || !text.trim()}>{t("comments.answer")}</Button>
        <Button disabled={busy} onclick={resolve}>{t("comments.resolve")}</Button>
      </div>
    </form>
  {/if}
</li>
