<script lang="ts">
  import { untrack } from "svelte";
  import OutlineFound from "./OutlineFound.svelte";
  import OutlineMove from "./OutlineMove.svelte";
  import OutlineStart from "./OutlineStart.svelte";
  import OutlineTree from "./OutlineTree.svelte";
  import { stageNames } from "../../lib/names";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { OutlineLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { live } from "../../lib/state/live.svelte";
  import { moment } from "../../lib/state/moment.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { Outline, type Moved } from "../../lib/state/outline.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import DateField from "../../ui/DateField.svelte";

  const outline = new Outline();
  let locale = $state("");
  let stage = $state("");
  let at = $state("");
  let words = $state("");
  let said = $state("");
  let moving = $state.raw<OutlineLine | null>(null);
  let targets = $state.raw<OutlineLine[]>([]);
  let busy = $state(false);
  let tree = $state<OutlineTree>();
  let going = $state<OutlineLine | null>(null);
  let collecting = $state<OutlineLine | null>(null);
  let start = $state<OutlineStart>();
  let first = true;
  const drafts = $derived(!stage && !at && !moment.at);
  /** At another instant than now, what is out then is what is asked about. */
  const shownStage = $derived(stage || (moment.at ? "release" : ""));
  const rows = $derived(outline.rows);
  const mayMove = $derived(drafts && session.may("write"));
  const stages = $derived([...stageNames({ after: true })]);

  $effect(() => {
    const then = at ? new Date(at).toISOString() : moment.at;
    const asked = { locale, stage: shownStage, at: then };
    void untrack(async () => {
      await outline.ask(asked);
      // The sites are open from the start: nobody comes to look at their names.
      const heads = (outline.levels[""]?.items ?? []).filter((line) => session.type(line.type)?.site);
      if (first) for (const head of heads) if (head.has_below) await outline.open(head.id);
      first = false;
    });
  });
  $effect(() => live.onEvent((change) => change.lists.has("outline") && void outline.reload()));

  async function move(
    line: OutlineLine,
    below: string,
    beside: { before?: string; after?: string } = {},
  ): Promise<void> {
    try {
      const done = await outline.move(line, below, beside);
      const where = below ? (rows.find((row) => row.line.id === below)?.line.title ?? "") : "";
      said = below
        ? t("outline.movedBelow", { title: line.title, where })
        : t("outline.movedTop", { title: line.title });
      toasts.offer(said, t("outline.undo"), () => undo(done));
      await tree?.focus(line.id);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function undo(moved: Moved): Promise<void> {
    try {
      await outline.undo(moved);
      said = t("outline.putBack", { title: moved.title });
      await tree?.focus(moved.id);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function reveal(line: OutlineLine): Promise<void> {
    try {
      await outline.reveal(line.id);
      words = "";
      await tree?.focus(line.id);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function copy(line: OutlineLine): Promise<void> {
    busy = true;
    try {
      const count = await outline.copy(line);
      toasts.say(t("outline.copied", { count }));
    } catch (error) {
      toasts.wrong(error);
    } finally {
      busy = false;
    }
  }

  function askMove(line: OutlineLine): void {
    moving = line;
    targets = rows.map((row) => row.line).filter((one) => one.id !== line.id);
  }
</script>

<svelte:head><title>{t("outline.title")} – {t("app.name")}</title></svelte:head>
<div class="flex flex-wrap items-center gap-3 pb-2">
  <h1 class="me-auto text-2xl font-semibold">{t("outline.title")}</h1>
  {#if mayMove}<Button look="main" onclick={() => start?.ask(null)}>{t("outline.startTop")}</Button>{/if}
</div>
<div class="flex flex-wrap items-end gap-3 pb-4">
  <label class="flex flex-col text-sm"
    >{t("outline.search")}<Input class="w-56!" type="search" bind:value={words} /></label
  >
  <label class="flex flex-col text-sm"
    >{t("outline.locale")}
    <Select bind:value={locale}>
      <option value="">{t("outline.sources")}</option>
      {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option>{/each}
    </Select></label
  >
  <label class="flex flex-col text-sm"
    >{t("outline.stage")}
    <Select bind:value={() => shownStage, (chosen) => (stage = chosen)}>
      {#if !moment.at}<option value="">{t("outline.drafts")}</option>{/if}
      {#each stages as [name, label] (name)}<option value={name}>{label}</option>{/each}
    </Select></label
  >
  {#if !moment.at}<DateField time class="text-sm" label={t("outline.at")} bind:value={at} />{/if}
  {#if at}<Button onclick={() => (at = "")}>{t("outline.now")}</Button>{/if}
</div>
{#if !drafts && !moment.at}<p class="mb-3 rounded bg-wash px-3 py-2 text-slate" role="status">
    {t("outline.elsewhere")}
  </p>{/if}
<p class="sr-only" role="status">{said}</p>
<OutlineFound {words} {locale} onReveal={reveal} />
{#if outline.error}
  <Trouble error={outline.error} again={() => outline.reload()} />
{:else if !outline.levels[""]}
  <Waiting lines={8} />
{:else if !rows.length}
  <div class="sheet flex flex-col items-start gap-3 p-5">
    <p>{t("outline.empty")}</p>
    {#if mayMove}<Button look="main" onclick={() => start?.ask(null)}>{t("outline.startTop")}</Button>{/if}
  </div>
{:else}
  <OutlineTree
    bind:this={tree}
    {outline}
    {locale}
    {mayMove}
    {busy}
    onMove={move}
    acts={{
      onAskMove: askMove,
      onStart: (below) => start?.ask(below),
      onCopy: copy,
      onGather: (line, into) => (into === "dispatch" ? (going = line) : (collecting = line)),
    }}
  />
  <div class="flex flex-wrap gap-2 pt-3">
    {#each rows.filter((row) => row.more) as row (row.line.id)}
      {@const above = rows.find((one) => one.line.id === row.parent)}
      <Button onclick={() => outline.more(row.parent)}
        >{above ? t("outline.moreBelow", { title: above.line.title }) : t("outline.more")}</Button
      >
    {/each}
  </div>
{/if}

{#if going}
  {#await import("../release/AddToDispatch.svelte") then { default: AddToDispatch }}
    <AddToDispatch items={[{ id: going.id, locale: going.locale }]} pages onClose={() => (going = null)} />
  {/await}
{/if}
{#if collecting}
  {#await import("../translation/CollectDialog.svelte") then { default: CollectDialog }}
    <CollectDialog entries={[collecting.id]} pages onClose={() => (collecting = null)} />
  {/await}
{/if}
<OutlineMove bind:moving {targets} onMove={move} />
<OutlineStart bind:this={start} {locale} />
