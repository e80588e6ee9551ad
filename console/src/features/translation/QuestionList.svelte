<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Question } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** What translators asked, with the answers; whoever may answers here. */
  let {
    job,
    questions,
    labels = {},
  }: {
    job: string;
    questions: Question[];
    /** What the units are called, by their keys. */
    labels?: Record<string, string>;
  } = $props();
  const queries = useQueryClient();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["job", job] }));
  let answering = $state(0);
  let text = $state("");

  async function answer(event: SubmitEvent, one: Question): Promise<void> {
    event.preventDefault();
    const params = { path: { id: job, number: one.id } };
    const done = await acting.do(() =>
      sure(api.POST("/api/jobs/{id}/questions/{number}/answer", { params, body: { answer: text } })),
    );
    if (!done) return;
    answering = 0;
    text = "";
  }
</script>

{#if acting.error}<Trouble error={acting.error} />{/if}
<ul class="flex flex-col gap-2 text-sm" aria-label={t("questions.title")}>
  {#each questions as one (one.id)}
    <li class={["border-s-2 ps-2", one.answer ? "border-s-line" : "border-s-berry"]}>
      <p class="text-moss">
        {[labels[one.key], one.by, when(one.at)].filter(Boolean).join(" · ")}
      </p>
      <p>{one.text}</p>
      {#if one.context}<p>
          <a href={one.context} target="_blank" rel="noopener noreferrer">{t("questions.context")}</a>
        </p>{/if}
      {#if one.answer}
        <p class="ps-3"><span class="text-moss">{one.answered_by}:</span> {one.answer}</p>
      {:else if one.may_answer && answering !== one.id}
        <Button class="px-2 py-0.5 text-sm" onclick={() => (answering = one.id)}
          >{t("questions.answer")}<span class="sr-only"> {one.text}</span></Button
        >
      {:else if !one.may_answer}<p class="text-moss">{t("questions.open")}</p>{/if}
      {#if answering === one.id}
        <form class="flex gap-2" onsubmit={(event) => answer(event, one)}>
          <Input
            class="flex-1 py-0.5"
            bind:value={text}
            required
            aria-label={t("questions.answerTo", { text: one.text })}
          />
          <Button type="submit" disabled={acting.busy}>{t("questions.send")}</Button>
        </form>
      {/if}
    </li>
  {/each}
</ul>
