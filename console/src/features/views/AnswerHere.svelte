<script lang="ts">
  import MentionBox from "../collaboration/MentionBox.svelte";
  import { api, sure, type WorkLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Button from "../../ui/Button.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** An answer to a comment in which one was named. */
  let { line, onDone }: { line: WorkLine; onDone: (how: "answered" | "resolved") => void } = $props();
  let text = $state("");
  let busy = $state(false);
  let error = $state<unknown>(null);

  async function answer(resolve: boolean): Promise<void> {
    busy = true;
    error = null;
    const params = { path: { id: line.comment } };
    try {
      if (text.trim()) await sure(api.POST("/api/comments/{id}/reply", { params, body: { text } }));
      if (resolve) await sure(api.POST("/api/comments/{id}/resolve", { params }));
      onDone(resolve ? "resolved" : "answered");
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<form
  class="mt-2 flex flex-col gap-2 border-t pt-3"
  onsubmit={(event) => {
    event.preventDefault();
    void answer(false);
  }}
>
  <MentionBox id="answer-{line.comment}" bind:value={text} label={t("comments.answerTo", { who: line.by })} />
  {#if error}<Trouble {error} />{/if}
  <div class="flex flex-wrap gap-2">
    <Button look="main" type="submit" disabled={busy || !text.trim()} {busy}>{t("comments.answer")}</Button>
    <Button disabled={busy} onclick={() => answer(true)}>{t("comments.resolve")}</Button>
  </div>
</form>
