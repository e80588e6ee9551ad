<script lang="ts">
  import { blockNavigation } from "sv-router";
  import { untrack } from "svelte";
  import ActBar from "../release/ActBar.svelte";
  import EntryHead from "./EntryHead.svelte";
  import EntryNotices from "./EntryNotices.svelte";
  import EntryPanes, { place, type Pane } from "./EntryPanes.svelte";
  import StrandBar from "./StrandBar.svelte";
  import FieldInput from "./fields/FieldInput.svelte";
  import { api, Problem, type Entry } from "../../lib/api";
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
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";

  interface Props {
    entry: Entry;
    onEntry: (entry: Entry) => void;
    onChange: () => void;
  }
  let { entry, onEntry, onChange }: Props = $props();
  const editor = untrack(
    () => new Editor(entry, entry.at ? sessionStorage : localStorage, session.me?.handle),
  );
  let version = $state(0);
  const preview = new Preview();
  const comments = commentsOn(
    new Comments(
      () => entry.id,
      () => entry.locale,
      untrack(() => entry.strand),
    ),
  );
  const presence = untrack(() => new Presence(entry.id, entry.locale, entry.strand));
  let pane = $state<Pane>(untrack(() => (entry.review?.outcome === "waiting" ? "compare" : "now")));

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
  /** Whether others can be met here: on what is written of an edition that is there. */
  const shared = $derived(entry.exists && !entry.at);
  $effect(() => {
    if (!comments.opened) return;
    pane = "comments";
    if (untrack(() => place.value) === "closed") place.value = "beside";
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

  /** A page is looked at in its width, wherever else it is not chosen otherwise. */
  const columns = $derived(
    {
      beside: "lg:grid-cols-[minmax(0,42rem)_minmax(17rem,1fr)]",
      wide: "lg:grid-cols-[minmax(0,26rem)_minmax(0,1fr)] 2xl:grid-cols-[minmax(0,42rem)_minmax(0,1fr)]",
      below: "max-w-4xl",
      closed: "lg:grid-cols-[minmax(0,48rem)_minmax(0,1fr)]",
    }[place.value === "beside" && pane === "page" ? "wide" : place.value],
  );

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
      later = false;
    } catch (error) {
      // Without a connection it is saved as soon as there is one again: what was typed is kept till then, here.
      later = error instanceof Problem && error.status === 0;
      if (!later) toasts.wrong(error);
    }
  }

  let later = $state(false);
  $effect(() => {
    if (later && live.connected) untrack(() => void save());
  });

  async function settle(decisions: Decisions): Promise<void> {
    try {
      told(await editor.settle(decisions), true);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  function replace(changed: Entry): void {
    // What is done with an edition from the page of a strand is answered with its draft, which is not what is written here.
    if (changed.strand !== entry.strand) return onChange();
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

<EntryHead entry={now} others={presence.others}>
  {#if mayWrite}
    <Button
      look={editor.dirty ? "main" : "plain"}
      busy={editor.saving}
      disabled={!editor.dirty || editor.saving}
      onclick={save}>{editor.saving ? t("entry.saving") : t("entry.save")}</Button
    >
  {/if}
  {#if onDraft && !now.at}<ActBar entry={now} dirty={editor.dirty} onEntry={replace} {onChange} />{/if}
</EntryHead>

<StrandBar entry={now} {mayWrite} {onChange} />

<div class={["grid gap-6 pt-4", columns]}>
  <form
    class="flex min-w-0 flex-col gap-5"
    onsubmit={(event) => event.preventDefault()}
    onfocusin={(event) => whereAbouts(event.target, false)}
    onfocusout={() => whereAbouts(null, false)}
    oninput={(event) => whereAbouts(event.target, true)}
  >
    <EntryNotices
      {editor}
      {later}
      {onChange}
      onDiscard={() => {
        editor.discard();
        version++;
      }}
    />
    {#if editor.clash}
      {@const clash = editor.clash}
      {#await import("./ConflictPanel.svelte")}<Waiting lines={3} />{:then part}
        <part.default
          conflicts={clash.conflicts}
          names={(uuid) => now.references[uuid]?.title ?? uuid}
          busy={editor.saving}
          onSettle={settle}
        />
      {:catch error}<Trouble {error} />{/await}
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
        places={pane === "page" ? preview.placesOf(entry.id, spec.name) : []}
        onPlace={(mark) => preview.tell({ kind: "show", mark })}
        here={presence.in(spec.name)}
        onType={(value) => editor.type(spec.name, value)}
      />
    {/each}
  </form>
  <EntryPanes entry={now} {editor} {preview} {comments} {shared} bind:pane onEntry={replace} {onChange} />
</div>
