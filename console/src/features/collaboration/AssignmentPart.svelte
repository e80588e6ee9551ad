<script lang="ts">
  import { api, sure, type Entry } from "../../lib/api";
  import { day, t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Waiting from "../../ui/Waiting.svelte";

  /** To whom an edition is assigned, until when; reassigning it. */
  interface Props {
    entry: Entry;
    onEntry: (entry: Entry) => void;
  }
  let { entry, onEntry }: Props = $props();
  let open = $state(false);
  const given = $derived(entry.assignment);
  const params = $derived({ path: { id: entry.id, locale: entry.locale } });

  async function end(done: boolean): Promise<void> {
    try {
      onEntry(await sure(api.POST("/api/entries/{id}/{locale}/assignment/end", { params, body: { done } })));
      toasts.say(t(done ? "assign.isDone" : "assign.isDropped"));
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

<section>
  <h2 class="font-sans font-semibold">{t("assign.title")}</h2>
  {#if given}
    <p>
      {t("assign.with", { who: given.holder, by: given.by })}
      {#if given.due}<span class={given.state === "late" ? "font-semibold text-straw" : ""}
          >{t(given.state === "late" ? "assign.late" : "assign.due", { day: day(given.due) })}</span
        >{/if}
    </p>
    {#if given.note}<p class="border-s-2 ps-3" dir="auto">{t("quoted", { text: given.note })}</p>{/if}
  {:else if !open}<p class="text-moss">{t("assign.nobody")}</p>{/if}
  {#if open}
    {#await import("./AssignForm.svelte")}<Waiting lines={3} />{:then part}
      <part.default {entry} {onEntry} onClose={() => (open = false)} />
    {/await}
  {:else}
    <div class="flex flex-wrap gap-2 pt-1">
      <Button onclick={() => (open = true)}>{t(given ? "assign.on" : "assign.give")}</Button>
      {#if given}
        <Button onclick={() => end(true)}>{t("assign.done")}</Button>
        <Button onclick={() => end(false)}>{t("assign.drop")}</Button>
      {/if}
    </div>
  {/if}
</section>
