<script lang="ts">
  import type { Entry } from "../../lib/api";
  import LimitNotice from "../delivery/LimitNotice.svelte";
  import AssistantWords from "./AssistantWords.svelte";
  import ArchivedNotice from "./ArchivedNotice.svelte";

  /** What holds for an entry whatever is written in it: that it is in the archive, that not everybody reads it, and that an assistant wrote in it. */
  let { entry, onChange }: { entry: Entry; onChange: () => void } = $props();
</script>

{#if entry.archived_at}<ArchivedNotice id={entry.id} since={entry.archived_at} {onChange} />{/if}
{#if entry.limit.way}<LimitNotice {entry} />{/if}
{#if entry.assisted}<AssistantWords {entry} />{/if}
