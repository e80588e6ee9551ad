<script lang="ts">
  import "../../messages/release";
  import { api, Problem, sure, type Conflict, type MoveLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import type { Decisions } from "../../lib/state/editor.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Modal from "../../ui/Modal.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { entryQuery } from "../content/queries";

  /** Brings what went out meanwhile into what is written inside a dispatch; what both changed is chosen first. */
  let { onDone }: { onDone: () => Promise<unknown> } = $props();
  let move = $state.raw<MoveLine | null>(null);
  let conflicts = $state.raw<Conflict[]>([]);
  let open = $state(false);
  let busy = $state(false);
  let error = $state<unknown>(null);
  const entry = entryQuery(
    () => move?.id ?? "",
    () => move?.locale ?? "",
    () => move?.strand ?? "",
  );

  export async function begin(one: MoveLine): Promise<void> {
    move = one;
    await go({});
  }

  async function go(decisions: Decisions): Promise<void> {
    const { id, locale, strand: name, title } = move!;
    const params = { path: { id, locale, name } };
    busy = true;
    error = null;
    try {
      await sure(
        api.POST("/api/entries/{id}/{locale}/strands/{name}/catch-up", { params, body: { decisions } }),
      );
      open = false;
      toasts.say(t("dispatch.caughtUp", { title }));
      await onDone();
    } catch (caught) {
      if (caught instanceof Problem && caught.slug === "conflict") {
        conflicts = caught.facts.conflicts as Conflict[];
        open = true;
      } else if (open) error = caught;
      else toasts.wrong(caught);
    } finally {
      busy = false;
    }
  }
</script>

<Modal bind:open title={t("dispatch.catchUpOf", { title: move?.title ?? "" })} size="lg">
  {#if error}<Trouble {error} />{/if}
  {#await import("../content/ConflictPanel.svelte")}<Waiting lines={3} />{:then part}
    <part.default
      {conflicts}
      names={(uuid) => entry.data?.references[uuid]?.title ?? uuid}
      {busy}
      side="out"
      onSettle={(decisions) => void go(decisions)}
    />
  {/await}
</Modal>
