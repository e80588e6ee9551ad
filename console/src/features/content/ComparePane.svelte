<script lang="ts">
  import Diff from "./Diff.svelte";
  import SidePicker from "./SidePicker.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { compareQuery } from "./queries";

  interface Props {
    entry: Entry;
    before?: string;
    after?: string;
  }
  let { entry, before = $bindable("release"), after = $bindable("draft") }: Props = $props();
  const found = compareQuery(
    () => entry.id,
    () => entry.locale,
    () => before,
    () => after,
    () => entry.etag + entry.rail.map((bead) => bead.revision).join(),
  );
</script>

<SidePicker
  {entry}
  {before}
  {after}
  onChoose={(side, name) => (side === "before" ? (before = name) : (after = name))}
/>
<p class="pb-3 text-sm">
  <a
    href="/entries/{entry.id}/{entry.locale}/compare?before={encodeURIComponent(
      before,
    )}&after={encodeURIComponent(after)}">{t("compare.beside")}</a
  >
</p>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting lines={3} />
{:else}
  <p class="pb-3 text-sm text-moss">{found.data.before.label} → {found.data.after.label}</p>
  {#if !found.data.fields.length}
    <p>{t("compare.same")}</p>
  {:else}
    <p class="pb-2 font-semibold">{t("compare.changes", { count: found.data.fields.length })}</p>
  {/if}
  {#each found.data.fields as field (field.field)}
    <section class="pb-4">
      <h2 class="font-sans pb-1 font-semibold text-moss">{field.label}</h2>
      <Diff parts={field.parts} lang={entry.locale} />
    </section>
  {/each}
{/if}
