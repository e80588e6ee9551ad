<script lang="ts">
  import "../../../messages/translation";
  import { api, sure, type MemoryMatch, type Question, type SegmentLine } from "../../../lib/api";
  import { t, when } from "../../../lib/i18n";
  import Button from "../../../ui/Button.svelte";
  import Input from "../../../ui/Input.svelte";
  import Trouble from "../../../ui/Trouble.svelte";
  import MachineSuggestion from "./MachineSuggestion.svelte";
  import MatchList from "./MatchList.svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { Acting } from "../../../lib/state/acting.svelte";
  import QuestionList from "../QuestionList.svelte";
  import WordList from "./WordList.svelte";
  import Words from "./Words.svelte";
  import { wordsIn } from "./sentences";
  import { KEYS, tagName } from "./names";
  import type { Work } from "./table.svelte";

  /** What can be done with the sentence that is worked on, and what is to be known of it. */
  interface Props {
    line: SegmentLine;
    work: Work;
    matches: MemoryMatch[];
    /** What was asked about its unit. */
    questions: Question[];
    job: string;
    target: string;
    last: boolean;
    mayAccept: boolean;
    onPut: (id: string, alone: boolean) => void;
    onInsert: (words: string) => void;
    onFinish: (state: "translated" | "reviewed") => void;
    onAccept: () => void;
  }
  let props: Props = $props();
  const { line, work, matches, questions, job, target, last, mayAccept } = $derived(props);
  const { onPut, onInsert, onFinish, onAccept } = $derived(props);
  let cutting = $state(false);
  let why = $state("");
  let asking = $state(false);
  let question = $state("");
  let sendingBack = $state(false);
  const returned = $derived(!!line.outcome && line.unit_state !== "final");
  /** The places at which the source can be cut: before each word but the first. */
  const cuts = $derived(
    [...wordsIn(line.source).matchAll(/(?<=\S\s+)\S+|(?<=[。！？])\S/g)].map((one) => ({
      at: one.index,
      word: one[0],
    })),
  );
  const queries = useQueryClient();
  const asked = new Acting(() => queries.invalidateQueries({ queryKey: ["job", job] }));

  async function ask(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { entry, key, segment } = line;
    const body = { entry, key, segment, text: question };
    const done = await asked.do(() =>
      sure(api.POST("/api/jobs/{id}/questions", { params: { path: { id: job } }, body })),
    );
    if (!done) return;
    asking = false;
    question = "";
  }
</script>

{#if line.tags.length}
  <div class="flex flex-wrap gap-1" role="group" aria-label={t("table.tags")}>
    {#each line.tags as tag, n (tag.id)}
      <Button
        class="px-2 py-0.5 text-sm"
        title={n < 9 ? t("table.withKey", { key: `Alt+${n + 1}` }) : undefined}
        onclick={() => onPut(tag.id, tag.alone)}>{tagName(line.tags, tag.id)}</Button
      >
    {/each}
  </div>
{/if}
<ul class="flex flex-col text-sm" aria-live="polite" aria-label={t("table.findings")}>
  {#each work.findings as one, n (n)}
    <li class={one.blocks ? "font-semibold text-berry" : "text-straw"}>{one.what}</li>
  {/each}
</ul>
<WordList {line} typed={work.typed ?? line.target} {target} {onInsert} />
<MatchList {line} {matches} {target} onUse={(sentence) => work.put(line, sentence)} />
<MachineSuggestion {line} {job} {target} onUse={(words) => work.put(line, words)} />
{#if line.room !== null}<p class="text-sm text-moss">
    {t("table.room", { have: wordsIn(work.typed ?? line.target).length, room: line.room })}
  </p>{/if}
{#if line.trouble}<p class="text-sm font-semibold text-straw">
    {t("table.trouble", { why: line.trouble })}
  </p>{/if}
{#if line.then.length}
  <div class="border-s-2 border-slate ps-2 text-sm">
    <p class="text-moss">{t("table.then")}</p>
    <p>{line.then[0]}</p>
    <p class="text-moss">{line.then[1]}</p>
  </div>
{/if}
{#each line.notes as note, n (n)}<p class="text-sm text-moss">{t("jobs.note", { note })}</p>{/each}
{#if work.other}
  <div class="border-s-2 border-berry ps-2" role="alert">
    <p class="font-semibold">{t("table.meanwhile", { by: work.other.by })}</p>
    <p class="prose-text"><Words sentence={work.other.now} tags={line.tags} /></p>
    <Button onclick={() => work.settle(line, false)}>{t("table.takeOther")}</Button>
    <Button onclick={() => work.settle(line, true)}>{t("table.keepMine")}</Button>
  </div>
{/if}
{#if work.error}<Trouble error={work.error} />{/if}
<div class="flex flex-wrap items-center gap-2">
  <Button
    look="main"
    disabled={work.busy}
    title={t("table.withKey", { key: KEYS.finish })}
    onclick={() => onFinish("translated")}>{t("table.finish")}</Button
  >
  {#if mayAccept}<Button
      disabled={work.busy}
      title={t("table.withKey", { key: KEYS.reviewed })}
      onclick={() => onFinish("reviewed")}>{t("table.reviewed")}</Button
    >{/if}
  <Button
    look="quiet"
    title={t("table.withKey", { key: KEYS.copy })}
    onclick={() => work.put(line, line.source)}>{t("table.copy")}</Button
  >
  {#if cuts.length}<Button look="quiet" aria-expanded={cutting} onclick={() => (cutting = !cutting)}
      >{t("table.cut")}</Button
    >{/if}
  {#if !last}<Button look="quiet" disabled={work.busy} onclick={() => work.divide(line, null)}
      >{t("table.join")}</Button
    >{/if}
  <Button look="quiet" aria-expanded={asking} onclick={() => (asking = !asking)}>{t("questions.ask")}</Button>
  {#if mayAccept && returned}
    <Button disabled={work.busy} onclick={onAccept}>{t("jobs.acceptOne")}</Button>
    <Button look="quiet" aria-expanded={sendingBack} onclick={() => (sendingBack = !sendingBack)}
      >{t("table.sendBack")}</Button
    >
  {/if}
</div>
{#if asking}
  <form class="flex gap-2" onsubmit={ask}>
    <Input
      class="flex-1 py-0.5"
      bind:value={question}
      required
      aria-label={t("questions.askFor")}
      placeholder={t("questions.askFor")}
    />
    <Button type="submit" disabled={asked.busy}>{t("questions.send")}</Button>
  </form>
  {#if asked.error}<Trouble error={asked.error} />{/if}
{/if}
{#if questions.length}<QuestionList {job} {questions} />{/if}
{#if cutting}
  <p class="flex flex-wrap gap-1" role="group" aria-label={t("table.cutBefore")}>
    <span class="text-sm text-moss">{t("table.cutBefore")}</span>
    {#each cuts as cut (cut.at)}
      <Button
        class="px-1.5 py-0 text-sm"
        disabled={work.busy}
        onclick={async () => {
          cutting = !(await work.divide(line, [...wordsIn(line.source).slice(0, cut.at)].length));
        }}>{cut.word}</Button
      >
    {/each}
  </p>
{/if}
{#if sendingBack}
  <form
    class="flex gap-2"
    onsubmit={async (event) => {
      event.preventDefault();
      if (await work.sendBack(line, why)) sendingBack = false;
    }}
  >
    <Input
      class="flex-1"
      bind:value={why}
      required
      aria-label={t("table.why")}
      placeholder={t("table.why")}
    />
    <Button type="submit" disabled={work.busy}>{t("table.sendBack")}</Button>
  </form>
{/if}
<label class="flex items-center gap-2 text-sm"
  ><span class="shrink-0 text-moss">{t("table.remark")}</span>
  <Input class="flex-1 py-0.5" bind:value={work.remark} /></label
>
{#if line.by}<p class="text-sm text-moss">{t("table.lastBy", { by: line.by, when: when(line.at) })}</p>{/if}
