<script lang="ts">
  import { blockNavigation } from "sv-router";
  import { untrack } from "svelte";
  import ActBar from "../release/ActBar.svelte";
  import ComparePane from "./ComparePane.svelte";
  import ConflictPanel from "./ConflictPanel.svelte";
  import HereBar from "../collaboration/HereBar.svelte";
  import HistoryPane from "./HistoryPane.svelte";
  import JobLineView from "../translation/JobLineView.svelte";
  import NowPane from "../delivery/NowPane.svelte";
  import PreviewPane from "../delivery/PreviewPane.svelte";
  import SearchAndSharingPane from "../delivery/SearchAndSharingPane.svelte";
  import Rail from "../../ui/Rail.svelte";
  import StrandBar from "./StrandBar.svelte";
  import CommentsPane from "../collaboration/CommentsPane.svelte";
  import FieldInput from "./fields/FieldInput.svelte";
  import { api, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Editor, type Decisions, type SaveOutcome } from "../../lib/state/editor.svelte";
  import { live } from "../../lib/state/live.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { Presence } from "../../lib/state/presence.svelte";
  import { focusMark, Preview } from "../../lib/state/preview.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { Comments, commentsOn } from "../../lib/state/comments.svelte";
  import { navigate } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Tabs from "../../ui/Tabs.svelte";

  interface Props {
    entry: Entry;
    onEntry: (entry: Entry) => void;
    onChange: () => void;
  }
  let { entry, onEntry, onChange }: Props = $props();
  const editor = untrack(() => new Editor(entry, localStorage, session.me?.handle));
  let version = $state(0);
  type Tab = "now" | "comments" | "page" | "compare" | "history" | "jobs" | "search";
  const preview = new Preview();
  const comments = commentsOn(
    new Comments(
      () => entry.id,
      () => entry.locale,
    ),
  );
  const presence = untrack(() => new Presence(entry.id, entry.locale));
  let tab = $state<Tab>(untrack(() => (entry.review?.outcome === "waiting" ? "compare" : "now")));
  let before = $state(untrack(() => (entry.strand === "draft" ? "release" : "draft")));
  const after = untrack(() => (entry.strand === "draft" ? "draft" : `strand:${entry.strand}`));

  $effect(() => {
    const seen = entry;
    untrack(() => {
      const replaced = !editor.dirty && seen.etag !== editor.base.etag;
      editor.see(seen);
      if (replaced) version++;
    });
  });

  const now = $derived(editor.latest);
  const kind = $derived(session.type(entry.type));
  const mayWrite = $derived(now.acts.find((act) => act.act === "save")?.allowed ?? false);
  const onDraft = $derived(entry.strand === "draft");
  /** What is required and not typed yet, as it is at this moment. */
  const lacking = $derived(
    new Set(
      (kind?.fields ?? [])
        .filter(
          (spec) => spec.required && empty(editor.value(spec.name)) && !editor.latest.derived[spec.name],
        )
        .map((spec) => spec.name),
    ),
  );
  const inside = (name: string): string[] =>
    now.missing.filter((one) => one.field.startsWith(`${name}:`)).map((one) => one.label);
  const foreign = $derived(entry.locale !== entry.source_locale);
  const waits = $derived.by(() => {
    const offered = (name: string) => now.acts.find((act) => act.act === name)?.allowed;
    return offered("sign") ? (now.review?.stage ?? "") : "";
  });
  const tabs = $derived.by((): { key: Tab; label: string }[] => [
    { key: "now", label: t("entry.tabNow") },
    ...(shared ? [{ key: "comments" as const, label: commentsLabel }] : []),
    ...(entry.page ? [{ key: "page" as const, label: t("entry.tabPage") }] : []),
    { key: "compare", label: t("entry.tabCompare") },
    { key: "history", label: t("entry.tabHistory") },
    { key: "jobs", label: t("entry.tabJobs") },
    ...(entry.search ? [{ key: "search" as const, label: t("entry.tabSearch") }] : []),
  ]);

  const commentsLabel = $derived(
    comments.all.some((one) => !one.resolved_at)
      ? t("comments.tabCount", { count: comments.all.filter((one) => !one.resolved_at).length })
      : t("comments.tab"),
  );
  /** Whether others can be met here: on the draft of an edition that is there. */
  const shared = $derived(entry.exists && onDraft);
  $effect(() => {
    if (comments.opened) tab = "comments";
  });
  $effect(() => {
    if (!shared) return;
    const told = () => void comments.load().catch(() => undefined);
    untrack(told);
    const id = untrack(() => entry.id);
    const ends = [
      live.onEvent((change) => change.touches(id) && told()),
      live.onPresence((at) => (at.length === 0 || at.includes(id)) && void presence.look()),
      presence.stay(),
    ];
    const wanted = new URLSearchParams(location.search).get("comment");
    if (wanted) untrack(() => comments.show(wanted));
    // Whoever looks at an entry has seen what they were told about it.
    void api.POST("/api/notifications/seen", { body: { upto: 0, entry: untrack(() => entry.id) } });
    return () => ends.forEach((end) => end());
  });

  let pause: ReturnType<typeof setTimeout> | undefined;
  function whereAbouts(target: EventTarget | null, typing: boolean): void {
    const name = (target as HTMLElement | null)?.closest?.("[data-field]")?.getAttribute("data-field") ?? "";
    presence.move(name, typing);
    clearTimeout(pause);
    if (typing) pause = setTimeout(() => presence.move(name, false), 4000);
  }

  // A part of the page leads to its field: here, or in the entry that it comes from.
  preview.onChosen = (mark) => {
    const [id, path = ""] = mark.split("/");
    if (id === entry.id) focusMark(path);
    else
      void navigate("/entries/:id/:locale", {
        params: { id: id!, locale: entry.locale },
        search: path ? { field: path } : {},
      });
  };
  $effect(() => {
    const wanted = new URLSearchParams(location.search).get("field");
    if (wanted) setTimeout(() => focusMark(wanted), 400);
  });

  function empty(value: unknown): boolean {
    return value === undefined || value === null || value === "" || (Array.isArray(value) && !value.length);
  }

  // Typed text stays in this browser either way; leaving is still asked about.
  $effect(() =>
    blockNavigation({
      beforeUnload: () => !editor.dirty,
      onNavigate: () => !editor.dirty || confirm(t("entry.leave")),
    }),
  );

  function told(outcome: SaveOutcome | null, settled = false): void {
    if (!outcome) return;
    onEntry(outcome.entry);
    // What was typed is still in the fields; only what came from others has to be put there.
    if (outcome.mergedWith.length || settled) version++;
    const number = outcome.entry.revision?.number;
    if (!outcome.changed) toasts.say(t("entry.unchanged"));
    else if (outcome.mergedWith.length) {
      const who = [...new Set(outcome.mergedWith.map((one) => one.author))].join(", ");
      toasts.say(t("entry.savedMerged", { number, who }));
    } else toasts.say(t("entry.saved", { number }));
  }

  async function save(): Promise<void> {
    if (!editor.dirty || editor.saving || editor.clash) return;
    try {
      told(await editor.save());
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function settle(decisions: Decisions): Promise<void> {
    try {
      told(await editor.settle(decisions), true);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  function replace(changed: Entry): void {
    editor.see(changed);
    version++;
    onEntry(changed);
  }

  function onKey(event: KeyboardEvent): void {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "s") {
      event.preventDefault();
      void save();
    }
  }
</script>

<svelte:window onkeydown={onKey} />

<div class="flex flex-wrap items-start gap-x-4 gap-y-2 border-b pb-3">
  <div class="min-w-0">
    <p class="text-sm text-moss">
      {entry.type_label}{entry.section ? ` · ${entry.section.title}` : ""}{entry.internal
        ? ` · ${entry.internal}`
        : ""}
    </p>
    <h1 class="text-2xl font-semibold" lang={entry.locale} dir="auto">{now.title || t("list.untitled")}</h1>
    <Rail beads={now.rail} planned={now.planned} {waits} names />
    <HereBar others={presence.others} type={entry.type} />
  </div>
  <div class="ms-auto flex flex-wrap items-center gap-2">
    {#if mayWrite}
      <Button look={editor.dirty ? "main" : "plain"} disabled={!editor.dirty || editor.saving} onclick={save}
        >{editor.saving ? t("entry.saving") : t("entry.save")}</Button
      >
    {/if}
    {#if onDraft}<ActBar entry={now} dirty={editor.dirty} onEntry={replace} {onChange} />{/if}
  </div>
</div>
<nav aria-label={t("entry.locales")} class="flex flex-wrap gap-1 border-b py-2">
  {#each now.locales as one (one.locale)}
    <a
      href="/entries/{entry.id}/{one.locale}"
      aria-current={one.locale === entry.locale ? "page" : undefined}
      class="flex items-center gap-2 rounded px-2 py-1 {one.locale === entry.locale
        ? 'bg-wash font-semibold'
        : ''} {one.exists ? '' : 'italic'}"
      ><span lang={one.locale}>{one.name}</span>{#if one.exists}<Rail beads={one.rail} />{/if}</a
    >
  {/each}
</nav>

<StrandBar entry={now} {mayWrite} {onChange} />

<div
  class="grid gap-6 pt-4 {tab === 'page'
    ? 'lg:grid-cols-[minmax(0,26rem)_minmax(0,1fr)] 2xl:grid-cols-[minmax(0,42rem)_minmax(0,1fr)]'
    : 'lg:grid-cols-[minmax(0,42rem)_minmax(17rem,1fr)]'}"
>
  <form
    class="flex min-w-0 flex-col gap-5"
    onsubmit={(event) => event.preventDefault()}
    onfocusin={(event) => whereAbouts(event.target, false)}
    onfocusout={() => whereAbouts(null, false)}
    oninput={(event) => whereAbouts(event.target, true)}
  >
    <div aria-live="polite" class="flex flex-col gap-2">
      {#if editor.broughtBack}
        <p class="sheet flex flex-wrap items-center gap-3 border-s-4 border-s-slate px-3 py-2">
          {t("entry.kept")}
          <Button
            onclick={() => {
              editor.discard();
              version++;
            }}>{t("entry.discard")}</Button
          >
        </p>
      {/if}
      {#if editor.movedOn && !editor.clash}<p class="sheet border-s-4 border-s-slate px-3 py-2">
          {t("entry.movedOn")}
        </p>{/if}
      {#if editor.dirty}<p class="text-sm text-moss">{t("entry.unsaved")}</p>{/if}
      {#if !now.exists}<p class="sheet px-3 py-2">
          {t("entry.notThere", { locale: session.locale(entry.locale)?.name })}
        </p>{/if}
    </div>
    {#if editor.clash}
      <ConflictPanel
        conflicts={editor.clash.conflicts}
        names={(uuid) => now.references[uuid]?.title ?? uuid}
        busy={editor.saving}
        onSettle={settle}
      />
    {/if}
    {#each kind?.fields ?? [] as spec (spec.name)}
      <FieldInput
        {spec}
        entry={now}
        {version}
        value={editor.value(spec.name)}
        readonly={!mayWrite || spec.read_only || (spec.shared && foreign && !session.may("configure"))}
        lacking={lacking.has(spec.name)}
        missing={inside(spec.name)}
        places={tab === "page" ? preview.placesOf(entry.id, spec.name) : []}
        onPlace={(mark) => preview.tell({ kind: "show", mark })}
        here={presence.in(spec.name)}
        onType={(value) => editor.type(spec.name, value)}
      />
    {/each}
  </form>
  <aside aria-label={t("entry.tabs")} class="min-w-0">
    <Tabs {tabs} bind:chosen={tab} label={t("entry.tabs")}>
      {#if tab === "now"}
        <NowPane entry={now} onEntry={replace} {onChange} />
      {:else if tab === "comments"}
        <CommentsPane {comments} entry={now} />
      {:else if tab === "page"}
        <PreviewPane {preview} entry={now} typed={editor.typed} />
      {:else if tab === "search"}
        <SearchAndSharingPane entry={now} value={(field) => editor.value(field)} />
      {:else if tab === "compare"}
        <ComparePane entry={now} bind:before {after} />
      {:else if tab === "history"}
        <HistoryPane
          entry={now}
          onEntry={replace}
          onCompare={(number) => {
            before = String(number);
            tab = "compare";
          }}
        />
      {:else}
        <div class="flex flex-col gap-2">
          {#each now.jobs as job (job.id)}<JobLineView {job} />{:else}<p class="text-moss">
              {t("jobs.none")}
            </p>{/each}
        </div>
      {/if}
    </Tabs>
  </aside>
</div>
