<script lang="ts">
  import "../../messages/release";
  import { tick } from "svelte";
  import CommentItem from "./CommentItem.svelte";
  import MentionBox from "./MentionBox.svelte";
  import { dispatchCommentsQuery } from "./queries";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** What colleagues say to one another about a dispatch as a whole. */
  let { id }: { id: string } = $props();
  const found = dispatchCommentsQuery(() => id);
  const at = new URLSearchParams(location.search).get("comment") ?? "";
  let text = $state("");
  const acting = new Acting(() => found.refetch());
  let settled = $state(false);
  const all = $derived(found.data?.items ?? []);
  const listed = $derived(all.filter((one) => settled || !one.resolved_at || one.id === at));
  const resolved = $derived(all.filter((one) => one.resolved_at).length);
  let led = false;

  // Whoever was sent to a comment is led to it, once it is there.
  $effect(() => {
    if (led || !all.some((one) => one.id === at)) return;
    led = true;
    void tick().then(() => document.getElementById(`comment-${at}`)?.scrollIntoView({ block: "center" }));
  });

  async function make(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const body = { text };
    if (
      await acting.do(() =>
        sure(api.POST("/api/dispatches/{id}/comments", { params: { path: { id } }, body })),
      )
    ) {
      text = "";
      toasts.say(t("comments.saidOfDispatch"));
    }
  }
</script>

<div class="flex max-w-2xl flex-col gap-3">
  {#if found.error}<Trouble error={found.error} again={() => found.refetch()} />{/if}
  {#if listed.length}
    <ul class="flex flex-col gap-3" aria-label={t("comments.title")}>
      {#each listed as one (one.id)}<CommentItem
          {one}
          busy={acting.busy}
          act={acting.do}
          here={at === one.id}
        />{/each}
    </ul>
  {/if}
  {#if resolved}
    <label class="flex items-center gap-2 text-sm"
      ><Checkbox bind:checked={settled} />{t("comments.showResolved", { count: resolved })}</label
    >
  {/if}
  <form class="flex flex-col gap-2" onsubmit={make}>
    <MentionBox id="new-comment" bind:value={text} label={t("comments.newOnDispatch")} />
    {#if acting.error}<Trouble error={acting.error} />{/if}
    <Button class="self-start" type="submit" disabled={acting.busy || !text.trim()}
      >{t("comments.say")}</Button
    >
  </form>
</div>
