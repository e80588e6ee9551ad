<script lang="ts">
  import "../../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { tick } from "svelte";
  import { api, sure, type ImportResult, type SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { Acting } from "../../../lib/state/acting.svelte";
  import { session } from "../../../lib/state/session.svelte";
  import { toasts } from "../../../lib/state/toasts.svelte";
  import { route } from "../../../router";
  import Trouble from "../../../ui/Trouble.svelte";
  import Waiting from "../../../ui/Waiting.svelte";
  import ImportOutcome from "../ImportOutcome.svelte";
  import { jobQuery } from "../queries";
  import ContextPane from "./ContextPane.svelte";
  import SegmentList from "./SegmentList.svelte";
  import SegmentRow from "./SegmentRow.svelte";
  import SegmentTools from "./SegmentTools.svelte";
  import type SentenceEditor from "./SentenceEditor.svelte";
  import { isClosed } from "../states";
  import TableHead, { type Which } from "./TableHead.svelte";
  import { nameOf } from "./names";
  import { nextWord, wordsIn } from "./sentences";
  import { matchesQuery, segmentsQuery, Work, type Languages } from "./table.svelte";

  const id = $derived((route.params as { id: string }).id);
  /** The editor is large; what is only read comes without it. */
  const writing = import("./SentenceEditor.svelte");
  const queries = useQueryClient();
  const job = jobQuery(() => id);
  const found = segmentsQuery(() => id);
  const work = new Work(() => id, queries);
  const acting = new Acting(() => queries.invalidateQueries());
  let which = $state<Which>("all");
  let came = $state.raw<ImportResult | null>(null);
  let context = $state(true);
  let editor = $state<SentenceEditor>();
  // A long job comes page by page; the rows that are in sight are drawn.
  $effect(() => {
    if (found.hasNextPage && !found.isFetchingNextPage) void found.fetchNextPage();
  });
  const all = $derived(found.data?.pages.flatMap((one) => one.items) ?? []);
  const shown = $derived(
    all.filter((one) =>
      which === "all" || nameOf(one) === work.at
        ? true
        : which === "open"
          ? one.state === "initial"
          : which === "look"
            ? one.findings.length > 0 || !!one.trouble || !!one.remark
            : !!one.outcome && one.unit_state !== "final",
    ),
  );
  const numbers = $derived(new Map(all.map((one, n) => [nameOf(one), n + 1])));
  const current = $derived(all.find((one) => nameOf(one) === work.at));
  const matches = matchesQuery(
    () => id,
    () => current,
  );
  const acceptable = $derived(
    !job.data || isClosed(job.data)
      ? []
      : shown.filter(
          (one) => one.first && ["applied", "kept"].includes(one.outcome) && one.unit_state !== "final",
        ),
  );
  const languages: Languages = $derived({
    source: job.data?.source_locale ?? "",
    target: job.data?.locale ?? "",
    sourceDir: session.locale(job.data?.source_locale ?? "")?.rtl ? "rtl" : "ltr",
    targetDir: session.locale(job.data?.locale ?? "")?.rtl ? "rtl" : "ltr",
  });

  let list = $state<SegmentList>();

  async function open(line: SegmentLine | undefined, keeps = true): Promise<void> {
    if (!line || nameOf(line) === work.at) return;
    if (keeps && current && work.loose && !(await work.keep(current))) return;
    work.begin(line);
    await tick();
    list?.reveal(line);
  }
  work.onBack = async (line) => {
    if (current && work.loose) await work.keep(current);
    work.begin(all.find((one) => nameOf(one) === nameOf(line)) ?? line);
  };

  function step(by: number): void {
    const n = shown.findIndex((one) => nameOf(one) === work.at);
    void open(shown[n + by]);
  }

  /** Go to the next open sentence; says whether there is one. */
  function nextOpen(keeps = true): boolean {
    const n = all.findIndex((one) => nameOf(one) === work.at);
    const others = [...all.slice(n + 1), ...all.slice(0, n)];
    const next = others.find((one) => one.state === "initial" && one.may_translate);
    if (next) void open(next, keeps);
    return !!next;
  }

  /** Whoever finishes a sentence is in the next at once; it is kept meanwhile. */
  async function finish(state: "translated" | "reviewed"): Promise<void> {
    if (!current || !wordsIn(work.typed ?? current.target).trim()) return;
    if (work.blocked) return;
    const kept = work.keep(current, state);
    const more = nextOpen(false);
    if ((await kept) && !more) toasts.say(t("table.allDone"));
  }

  /** Keys of the table, whose cursor is in a sentence. */
  function onKey(event: KeyboardEvent): boolean {
    if (!current) return false;
    const control = event.ctrlKey || event.metaKey;
    const tag =
      event.altKey && !control ? current.tags[Number(event.code.replace("Digit", "")) - 1] : undefined;
    if (control && event.key === "Enter")
      void finish(event.shiftKey && job.data?.may_accept ? "reviewed" : "translated");
    else if (event.altKey && event.key === "ArrowDown") step(1);
    else if (event.altKey && event.key === "ArrowUp") step(-1);
    else if (event.altKey && event.code === "KeyC") work.put(current, current.source);
    else if (event.altKey && event.code === "KeyN") nextOpen();
    else if (event.altKey && event.code === "KeyV" && matches.data?.matches[0])
      work.put(current, matches.data.matches[0].target);
    else if (event.altKey && event.code === "KeyG")
      editor?.insert(nextWord(current, work.typed ?? current.target) ?? "");
    else if (tag) editor?.put(tag.id, tag.alone);
    else return false;
    event.preventDefault();
    return true;
  }

  /** Put in what is translated to its end. */
  async function deliver(): Promise<void> {
    if (current && work.loose && !(await work.keep(current))) return;
    await acting.do(async () => {
      came = await sure(api.POST("/api/jobs/{id}/deliver", { params: { path: { id } } }));
    });
  }

  /** Put what the memories have of the same words into what is open. */
  async function fill(): Promise<void> {
    await acting.do(async () => {
      const { filled } = await sure(api.POST("/api/jobs/{id}/fill", { params: { path: { id } } }));
      toasts.say(t("table.filled", { count: filled }));
    });
  }

  function accept(units: { entry: string; key: string }[]): Promise<boolean> {
    return acting.do(async () => {
      const named = units.map(({ entry, key }) => ({ entry, key }));
      const body = { units: named, note: "", release: false, dispatch: "" };
      const result = await sure(api.POST("/api/jobs/{id}/accept", { params: { path: { id } }, body }));
      if (!result.left) toasts.say(t("jobs.acceptedAll"));
      for (const note of result.notes) toasts.say(note);
    });
  }

  /** Go to the sentence that stands where somebody chose on the page. */
  function chosen(entry: string, path: string, words: string): void {
    const there = all.filter((one) => one.entry === entry && (one.key.split(".")[0] ?? "").startsWith(path));
    const says = (one: SegmentLine) =>
      [one.source, one.target].some((side) => side && words.includes(wordsIn(side).trim()));
    void open(there.find(says) ?? there[0]);
  }

  function leaving(event: BeforeUnloadEvent): void {
    if (work.loose) event.preventDefault();
  }
</script>

<svelte:window onbeforeunload={leaving} />
<svelte:head><title>{job.data?.name ?? t("table.title")} – {t("app.name")}</title></svelte:head>
<p><a href="/translation/{id}">{t("table.back")}</a></p>
{#if job.error || found.error}
  <Trouble error={job.error ?? found.error} again={() => found.refetch()} />
{:else if !job.data || !found.data}
  <Waiting lines={8} />
{:else}
  <TableHead
    job={job.data}
    lines={all}
    bind:which
    bind:context
    {acceptable}
    busy={acting.busy}
    loading={found.hasNextPage}
    onDeliver={deliver}
    onFill={fill}
    onAccept={() => accept(acceptable)}
    onNext={() => nextOpen() || toasts.say(t("table.allDone"))}
  />
  {#if acting.error}<Trouble error={acting.error} />{/if}
  {#if came}<ImportOutcome found={came} onHide={() => (came = null)} />{/if}
  <div class={["grid gap-4", context && "xl:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]"]}>
    <SegmentList bind:this={list} lines={shown}>
      {#snippet row(line, n)}
        <SegmentRow
          {line}
          number={numbers.get(nameOf(line)) ?? 0}
          title={line.first && shown[n - 1]?.entry !== line.entry ? line.title : ""}
          {languages}
          active={nameOf(line) === work.at}
          editable={line.may_translate}
          onOpen={() => open(line)}
        >
          {#snippet editing()}
            {#key work.turn}
              {#await writing then { default: Sentence }}
                <Sentence
                  bind:this={editor}
                  {line}
                  sentence={work.typed ?? line.target}
                  lang={languages.target}
                  dir={languages.targetDir}
                  onType={(sentence) => work.type(line, sentence)}
                  {onKey}
                />
              {/await}
            {/key}
            <SegmentTools
              {line}
              {work}
              matches={matches.data?.matches ?? []}
              questions={(job.data?.questions ?? []).filter(
                (one) => one.entry === line.entry && one.key === line.key,
              )}
              job={id}
              target={languages.target}
              last={shown[n + 1]?.key !== line.key}
              mayAccept={job.data?.may_accept ?? false}
              onPut={(tag, alone) => editor?.put(tag, alone)}
              onInsert={(words) => editor?.insert(words)}
              onFinish={finish}
              onAccept={() => accept([line])}
            />
          {/snippet}
        </SegmentRow>
      {/snippet}
    </SegmentList>
    {#if context}
      <aside class="max-xl:hidden" aria-label={t("table.context")}>
        <div class="sticky top-4">
          {#if current ?? all[0]}<ContextPane
              line={(current ?? all[0])!}
              source={languages.source}
              target={languages.target}
              onChosen={chosen}
            />{/if}
        </div>
      </aside>
    {/if}
  </div>
{/if}
