<script lang="ts">
  import { tick, untrack } from "svelte";
  import Rail from "../../ui/Rail.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, once, sure, type OutlineLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { live } from "../../lib/state/live.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { Outline, type Moved, type Row } from "../../lib/state/outline.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { navigate } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import ArrowUpDownOutline from "flowbite-svelte-icons/ArrowUpDownOutline.svelte";
  import FileCopyOutline from "flowbite-svelte-icons/FileCopyOutline.svelte";
  import PlusOutline from "flowbite-svelte-icons/PlusOutline.svelte";
  import ChevronDownOutline from "flowbite-svelte-icons/ChevronDownOutline.svelte";
  import ChevronRightOutline from "flowbite-svelte-icons/ChevronRightOutline.svelte";
  import DateField from "../../ui/DateField.svelte";

  const outline = new Outline();
  let locale = $state("");
  let stage = $state("");
  let at = $state("");
  let words = $state("");
  let found = $state.raw<{ line: OutlineLine; above: string[] }[] | null>(null);
  let focused = $state("");
  let dragged = $state<string | null>(null);
  let over = $state<{ id: string; how: "before" | "in" | "after" } | null>(null);
  let said = $state("");
  let moving = $state.raw<OutlineLine | null>(null);
  let target = $state("");
  let targets = $state.raw<OutlineLine[]>([]);
  let starting = $state.raw<{ below: OutlineLine | null; types: string[] } | null>(null);
  let type = $state("");
  let title = $state("");
  let busy = $state(false);
  let tree = $state<HTMLDivElement>();
  let first = true;
  const drafts = $derived(!stage && !at);
  const rows = $derived(outline.rows);
  const mayMove = $derived(drafts && session.may("write"));
  const stages = $derived([
    ...new Map(
      (session.setup?.workflows ?? [])
        .flatMap((flow) => flow.stages)
        .filter((stage) => stage.name !== "draft")
        .map((stage) => [stage.name, stage.label]),
    ),
  ]);

  $effect(() => {
    const asked = { locale, stage, at: at ? new Date(at).toISOString() : "" };
    void untrack(async () => {
      await outline.ask(asked);
      // The sites are open from the start: nobody comes to look at their names.
      const heads = (outline.levels[""]?.items ?? []).filter((line) => session.type(line.type)?.site);
      if (first) for (const head of heads) if (head.has_below) await outline.open(head.id);
      first = false;
    });
  });
  $effect(() => live.onEvent((change) => change.lists.has("outline") && void outline.reload()));
  $effect(() => {
    const wanted = words.trim();
    if (!wanted) {
      found = null;
      return;
    }
    const pending = setTimeout(async () => {
      const query = { words: wanted, ...(locale ? { locale } : {}) };
      const answer = await sure(api.GET("/api/outline/search", { params: { query } })).catch(() => null);
      found = answer?.items ?? [];
    }, 180);
    return () => clearTimeout(pending);
  });

  async function focus(id: string): Promise<void> {
    focused = id;
    await tick();
    tree?.querySelector<HTMLElement>(`[data-id="${id}"]`)?.focus();
  }

  async function toggle(row: Row): Promise<void> {
    try {
      if (outline.opened[row.line.id]) outline.close(row.line.id);
      else await outline.open(row.line.id);
    } catch (error) {
      toasts.wrong(error);
    }
  }

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
      await focus(line.id);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function undo(moved: Moved): Promise<void> {
    try {
      await outline.undo(moved);
      said = t("outline.putBack", { title: moved.title });
      await focus(moved.id);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  function siblings(row: Row): OutlineLine[] {
    return outline.levels[row.parent]?.items ?? [];
  }

  /** Alt with an arrow moves: up and down among those beside, right below the one before, left beside the one above. */
  async function shift(row: Row, key: string): Promise<void> {
    const beside = siblings(row);
    const before = beside[row.place - 1];
    const after = beside[row.place + 1];
    if (key === "ArrowUp" && before) await move(row.line, row.parent, { before: before.id });
    else if (key === "ArrowDown" && after) await move(row.line, row.parent, { after: after.id });
    else if (key === "ArrowRight" && before) await move(row.line, before.id);
    else if (key === "ArrowLeft" && row.parent) {
      const above = rows.find((one) => one.line.id === row.parent);
      if (above) await move(row.line, above.parent, { after: above.line.id });
    }
  }

  async function onKey(event: KeyboardEvent, row: Row, n: number): Promise<void> {
    if (event.target !== event.currentTarget) return;
    const rtl = getComputedStyle(event.currentTarget as Element).direction === "rtl";
    const key = rtl
      ? ({ ArrowLeft: "ArrowRight", ArrowRight: "ArrowLeft" }[event.key] ?? event.key)
      : event.key;
    const isOpen = outline.opened[row.line.id];
    if (event.altKey && key.startsWith("Arrow")) {
      event.preventDefault();
      if (mayMove && row.line.movable) await shift(row, key);
      return;
    }
    const to = { ArrowDown: n + 1, ArrowUp: n - 1, Home: 0, End: rows.length - 1 }[key];
    if (to !== undefined && rows[to]) {
      event.preventDefault();
      await focus(rows[to].line.id);
    } else if (key === "ArrowRight" && row.line.has_below) {
      event.preventDefault();
      if (!isOpen) await toggle(row);
      else if (rows[n + 1]) await focus(rows[n + 1]!.line.id);
    } else if (key === "ArrowLeft") {
      event.preventDefault();
      if (isOpen) outline.close(row.line.id);
      else if (row.parent) await focus(row.parent);
    } else if (key === "Enter") {
      await navigate("/entries/:id/:locale", { params: { id: row.line.id, locale: row.line.locale } });
    }
  }

  function dragOver(event: DragEvent, row: Row): void {
    if (!dragged || dragged === row.line.id) return;
    event.preventDefault();
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const part = (event.clientY - box.top) / box.height;
    over = { id: row.line.id, how: part < 0.28 ? "before" : part > 0.72 ? "after" : "in" };
  }

  async function drop(row: Row): Promise<void> {
    const line = rows.find((one) => one.line.id === dragged)?.line;
    const how = over?.how;
    dragged = over = null;
    if (!line || !how) return;
    if (how === "in") await move(line, row.line.id);
    else await move(line, row.parent, { [how]: row.line.id });
  }

  async function reveal(line: OutlineLine): Promise<void> {
    try {
      await outline.reveal(line.id);
      words = "";
      await focus(line.id);
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
    target = "";
    targets = rows.map((row) => row.line).filter((one) => one.id !== line.id);
  }

  async function askStart(below: OutlineLine | null): Promise<void> {
    try {
      const query = below ? { below: below.id, limit: 1 } : { limit: 1 };
      const level = await sure(api.GET("/api/outline", { params: { query } }));
      starting = { below, types: level.allowed };
      type = level.allowed[0] ?? "";
      title = "";
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function start(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const kind = session.type(type);
    if (!starting || !kind) return;
    const place = kind.fields.find((field) => field.kind === "parent");
    const fields: Record<string, unknown> = { [kind.title]: title };
    if (place && starting.below) fields[place.name] = starting.below.id;
    busy = true;
    try {
      const made = await sure(
        api.POST("/api/entries", {
          params: { header: once() },
          body: { type, locale: locale || session.setup!.locales[0]!.tag, fields, note: "" },
        }),
      );
      starting = null;
      await navigate("/entries/:id/:locale", { params: { id: made.id, locale: made.locale } });
    } catch (error) {
      toasts.wrong(error);
    } finally {
      busy = false;
    }
  }
</script>

<svelte:head><title>{t("outline.title")} – {t("app.name")}</title></svelte:head>
<div class="flex flex-wrap items-end gap-3 pb-4">
  <h1 class="me-auto text-2xl font-semibold">{t("outline.title")}</h1>
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
    <Select bind:value={stage}>
      <option value="">{t("outline.drafts")}</option>
      {#each stages as [name, label] (name)}<option value={name}>{label}</option>{/each}
    </Select></label
  >
  <DateField time class="text-sm" label={t("outline.at")} bind:value={at} />
  {#if at}<Button onclick={() => (at = "")}>{t("outline.now")}</Button>{/if}
  {#if mayMove}<Button look="main" onclick={() => askStart(null)}>{t("outline.startTop")}</Button>{/if}
</div>
{#if !drafts}<p class="mb-3 rounded bg-wash px-3 py-2 text-slate" role="status">
    {t("outline.elsewhere")}
  </p>{/if}
<p class="sr-only" role="status">{said}</p>
{#if found}
  <ul class="sheet mb-4 divide-y" aria-label={t("outline.found")}>
    {#each found as one (one.line.id)}
      <li class="flex flex-wrap items-center gap-x-3 px-3 py-2">
        <span class="min-w-0"
          >{#if one.above.length}<span class="text-sm text-moss">{one.above.join(" › ")} › </span>{/if}<a
            href="/entries/{one.line.id}/{one.line.locale}">{one.line.title || t("list.untitled")}</a
          ></span
        >
        <Button class="ms-auto" onclick={() => reveal(one.line)}>{t("outline.reveal")}</Button>
      </li>
    {:else}<li class="px-3 py-2 text-moss">{t("outline.foundNone")}</li>{/each}
  </ul>
{/if}
{#if outline.error}
  <Trouble error={outline.error} again={() => outline.reload()} />
{:else if !outline.levels[""]}
  <Waiting lines={8} />
{:else if !rows.length}
  <div class="sheet flex flex-col items-start gap-3 p-5">
    <p>{t("outline.empty")}</p>
    {#if mayMove}<Button look="main" onclick={() => askStart(null)}>{t("outline.startTop")}</Button>{/if}
  </div>
{:else}
  <p id="outline-keys" class="pb-2 text-sm text-moss">{t(mayMove ? "outline.keys" : "outline.keysRead")}</p>
  <div
    bind:this={tree}
    role="tree"
    aria-label={t("outline.title")}
    aria-describedby="outline-keys"
    class="sheet overflow-hidden"
  >
    {#each rows as row, n (row.line.id)}
      {@const line = row.line}
      {@const here = (focused || rows[0]?.line.id) === line.id}
      <div
        role="treeitem"
        aria-level={row.depth + 1}
        aria-posinset={row.place + 1}
        aria-setsize={row.count}
        aria-expanded={line.has_below ? !!outline.opened[line.id] : undefined}
        aria-selected={here}
        aria-label="{line.title || t('list.untitled')}, {line.type_label}"
        tabindex={here ? 0 : -1}
        data-id={line.id}
        draggable={mayMove && line.movable}
        class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b px-2 py-1.5 last:border-b-0 {dragged ===
        line.id
          ? 'opacity-50'
          : ''} {over?.id === line.id
          ? over.how === 'in'
            ? 'bg-wash outline-2 outline-hedge'
            : over.how === 'before'
              ? 'border-t-4 border-t-hedge'
              : 'border-b-4 border-b-hedge'
          : ''}"
        style:padding-inline-start="{0.5 + row.depth * 1.5}rem"
        onfocus={() => (focused = line.id)}
        onkeydown={(event) => onKey(event, row, n)}
        ondragstart={(event) => {
          dragged = line.id;
          event.dataTransfer?.setData("text/plain", line.id);
        }}
        ondragend={() => (dragged = over = null)}
        ondragover={(event) => dragOver(event, row)}
        ondrop={(event) => {
          event.preventDefault();
          void drop(row);
        }}
      >
        {#if line.has_below}
          <Button
            look="quiet"
            tabindex={-1}
            icon={outline.opened[line.id] ? ChevronDownOutline : ChevronRightOutline}
            class="text-moss rtl:-scale-x-100"
            label={t(outline.opened[line.id] ? "outline.close" : "outline.open", { title: line.title })}
            onclick={() => toggle(row)}
          />
        {:else}<span class="w-8" aria-hidden="true"></span>{/if}
        <a
          href="/entries/{line.id}/{line.locale}"
          tabindex={here ? 0 : -1}
          lang={line.locale}
          dir="auto"
          class="min-w-0 font-semibold break-words">{line.title || t("list.untitled")}</a
        >
        <span class="text-sm text-moss">{line.type_label}</span>
        {#if locale && line.locale !== locale}<span class="text-sm text-straw"
            >{t("outline.notIn", { locale: session.locale(locale)?.name })}</span
          >{/if}
        {#if line.incomplete}<span class="text-sm font-semibold text-straw">{t("outline.incomplete")}</span
          >{/if}
        {#if line.behind}<span class="text-sm text-straw">{t("outline.behind")}</span>{/if}
        <span class="ms-auto flex items-center gap-2">
          <Rail beads={line.rail} planned={line.planned} />
          {#if mayMove}
            <Button
              look="quiet"
              icon={PlusOutline}
              tabindex={here ? 0 : -1}
              label={t("outline.startBelow", { title: line.title })}
              onclick={() => askStart(line)}
            />
            {#if line.movable}
              <Button
                look="quiet"
                icon={ArrowUpDownOutline}
                tabindex={here ? 0 : -1}
                label={t("outline.move", { title: line.title })}
                onclick={() => askMove(line)}
              />
              <Button
                look="quiet"
                icon={FileCopyOutline}
                tabindex={here ? 0 : -1}
                disabled={busy}
                label={t("outline.copy", { title: line.title })}
                onclick={() => copy(line)}
              />
            {/if}
          {/if}
        </span>
      </div>
    {/each}
  </div>
  <div class="flex flex-wrap gap-2 pt-3">
    {#each rows.filter((row) => row.more) as row (row.line.id)}
      {@const above = rows.find((one) => one.line.id === row.parent)}
      <Button onclick={() => outline.more(row.parent)}
        >{above ? t("outline.moreBelow", { title: above.line.title }) : t("outline.more")}</Button
      >
    {/each}
  </div>
{/if}

<FormDialog
  open={moving !== null}
  title={t("outline.move", { title: moving?.title ?? "" })}
  go={t("outline.doMove")}
  onclose={() => (moving = null)}
  onsubmit={() => {
    const line = moving;
    moving = null;
    if (line) void move(line, target);
  }}
>
  <label class="flex flex-col gap-1"
    >{t("outline.below")}
    <Select bind:value={target}>
      <option value="">{t("outline.top")}</option>
      {#each targets as one (one.id)}<option value={one.id}>{one.title || t("list.untitled")}</option>{/each}
    </Select></label
  >
  <p class="text-sm text-moss">{t("outline.moveAbout")}</p>
</FormDialog>
<FormDialog
  open={starting !== null}
  title={starting?.below ? t("outline.startBelow", { title: starting.below.title }) : t("outline.startTop")}
  go={starting?.types.length ? t("start.go") : ""}
  {busy}
  onclose={() => (starting = null)}
  onsubmit={start}
>
  {#if starting?.types.length}
    <label class="flex flex-col gap-1"
      >{t("start.type")}
      <Select bind:value={type}>
        {#each starting.types as one (one)}<option value={one}>{session.type(one)?.label ?? one}</option
          >{/each}
      </Select></label
    >
    <label class="flex flex-col gap-1">{t("start.name")}<Input bind:value={title} /></label>
  {:else}
    <p>{t("outline.nothingBelow")}</p>
  {/if}
</FormDialog>
