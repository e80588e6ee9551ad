<script lang="ts" module>
  import { Kept } from "../../lib/state/kept.svelte";

  export const PLACES = ["beside", "wide", "below", "closed"] as const;
  export type Pane = "now" | "comments" | "page" | "compare" | "history" | "jobs" | "search";
  /** Where the panes stand; everywhere the same, until it is chosen otherwise. */
  export const place = new Kept<(typeof PLACES)[number]>("pane", "beside");
</script>

<script lang="ts">
  import { untrack } from "svelte";
  import type { Comments } from "../../lib/state/comments.svelte";
  import type { Preview } from "../../lib/state/preview.svelte";
  import type { Editor } from "../../lib/state/editor.svelte";
  import type { Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import NowPane from "../delivery/NowPane.svelte";
  import Button from "../../ui/Button.svelte";
  import Menu from "../../ui/Menu.svelte";
  import MenuLine from "../../ui/MenuLine.svelte";
  import Tabs from "../../ui/Tabs.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import ColumnOutline from "flowbite-svelte-icons/ColumnOutline.svelte";
  import ExpandOutline from "flowbite-svelte-icons/ExpandOutline.svelte";
  import ObjectsColumnOutline from "flowbite-svelte-icons/ObjectsColumnOutline.svelte";
  import OpenSidebarAltOutline from "flowbite-svelte-icons/OpenSidebarAltOutline.svelte";

  /** What is looked at beside the text: where it stands, what is said about it, its page, what changed. Each part comes when it is opened. */
  interface Props {
    entry: Entry;
    editor: Editor;
    preview: Preview;
    comments: Comments;
    /** Whether others can be met here. */
    shared: boolean;
    pane: Pane;
    onEntry: (entry: Entry) => void;
    onChange: () => void;
  }
  let { entry, editor, preview, comments, shared, pane = $bindable(), onEntry, onChange }: Props = $props();
  const strand = untrack(() => entry.strand);
  let before = $state(strand === "draft" ? "release" : "draft");
  const after = strand === "draft" ? "draft" : `strand:${strand}`;
  const ICONS = {
    beside: ColumnOutline,
    wide: ExpandOutline,
    below: ObjectsColumnOutline,
    closed: CloseOutline,
  };

  const said = $derived(comments.all.filter((one) => !one.resolved_at).length);
  const tabs = $derived.by((): { key: Pane; label: string }[] => [
    { key: "now", label: t("entry.tabNow") },
    ...(shared
      ? [
          {
            key: "comments" as const,
            label: said ? t("comments.tabCount", { count: said }) : t("comments.tab"),
          },
        ]
      : []),
    ...(entry.page ? [{ key: "page" as const, label: t("entry.tabPage") }] : []),
    { key: "compare", label: t("entry.tabCompare") },
    { key: "history", label: t("entry.tabHistory") },
    { key: "jobs", label: t("entry.tabJobs") },
    ...(entry.search ? [{ key: "search" as const, label: t("entry.tabSearch") }] : []),
  ]);
</script>

{#if place.value === "closed"}
  <div class="flex justify-end">
    <Button icon={OpenSidebarAltOutline} onclick={() => (place.value = "beside")}>{t("panes.open")}</Button>
  </div>
{:else}
  <aside aria-label={t("entry.tabs")} class="min-w-0">
    <Tabs {tabs} bind:chosen={pane} label={t("entry.tabs")}>
      {#snippet end()}
        <Menu label={t("panes.label")} icon={ICONS[place.value]} look="quiet">
          {#each PLACES as one (one)}
            <MenuLine icon={ICONS[one]} chosen={place.value === one} onclick={() => (place.value = one)}
              >{t(`panes.${one}`)}</MenuLine
            >
          {/each}
        </Menu>
      {/snippet}
      {#if pane === "now"}
        <NowPane {entry} {onEntry} {onChange} />
      {:else if pane === "comments"}
        {#await import("../collaboration/CommentsPane.svelte")}<Waiting lines={3} />{:then part}
          <part.default {comments} {entry} />
        {:catch error}<Trouble {error} />{/await}
      {:else if pane === "page"}
        {#await import("../delivery/PreviewPane.svelte")}<Waiting lines={3} />{:then part}
          <part.default {preview} {entry} typed={editor.typed} />
        {:catch error}<Trouble {error} />{/await}
      {:else if pane === "search"}
        {#await import("../delivery/SearchAndSharingPane.svelte")}<Waiting lines={3} />{:then part}
          <part.default {entry} value={(field) => editor.value(field)} />
        {:catch error}<Trouble {error} />{/await}
      {:else if pane === "compare"}
        {#await import("./ComparePane.svelte")}<Waiting lines={3} />{:then part}
          <part.default {entry} bind:before {after} />
        {:catch error}<Trouble {error} />{/await}
      {:else if pane === "history"}
        {#await import("./HistoryPane.svelte")}<Waiting lines={3} />{:then part}
          <part.default
            {entry}
            {onEntry}
            {onChange}
            onCompare={(side) => {
              before = side;
              pane = "compare";
            }}
          />
        {:catch error}<Trouble {error} />{/await}
      {:else}
        {#await import("../translation/TranslationsPane.svelte")}<Waiting lines={3} />{:then part}
          <part.default {entry} {onChange} />
        {:catch error}<Trouble {error} />{/await}
      {/if}
    </Tabs>
  </aside>
{/if}
