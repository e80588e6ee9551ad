<script lang="ts">
  import "../../messages/translation";
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, once, sure, type LeftOut } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate } from "../../router";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import WhichOpen from "../../ui/WhichOpen.svelte";
  import { commissionsQuery } from "./queries";

  /** Put entries into a commission that is open, or into a new one; what cannot go along is named. */
  interface Props {
    entries: string[];
    /** Whether the pages below them can come along. */
    pages?: boolean;
    onClose: () => void;
    onDone?: () => void;
  }
  let { entries, pages = false, onClose, onDone }: Props = $props();
  const queries = useQueryClient();
  const found = commissionsQuery(
    () => "open",
    () => 1,
  );
  let into = $state("");
  let name = $state("");
  let shared = $state(true);
  let below = $state(untrack(() => pages));
  let linked = $state(false);
  let left = $state<LeftOut[]>([]);
  let busy = $state(false);
  let error = $state<unknown>(null);

  async function go(): Promise<void> {
    busy = true;
    error = null;
    try {
      if (!into) {
        const made = await sure(
          api.POST("/api/commissions/open", { params: { header: once() }, body: { name, shared } }),
        );
        // What comes next may fail: the same commission is meant when it is tried again.
        into = made.id;
        await queries.invalidateQueries({ queryKey: ["commissions"] });
      }
      const id = into;
      const done = await sure(
        api.POST("/api/commissions/{id}/entries", {
          params: { path: { id } },
          body: { entries, below: pages && below, linked },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["commissions"] });
      toasts.offer(
        t("commissions.added", { count: done.added, name: done.commission.name }),
        t("commissions.look"),
        () => void navigate("/translation/commissions/:id", { params: { id } }),
      );
      left = done.left_out;
      if (!left.length) onClose();
      onDone?.();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open
  title={t("commissions.addTitle", { count: entries.length })}
  go={left.length ? "" : t("commissions.doAdd")}
  back={t(left.length ? "commissions.close" : "start.cancel")}
  {busy}
  ready={!found.isPending}
  {error}
  onclose={onClose}
  onsubmit={go}
>
  {#if left.length}
    <p>{t("commissions.leftOut", { count: left.length })}</p>
    <ul class="max-h-64 list-disc overflow-y-auto ps-5 text-sm">
      {#each left as one (one.id)}<li>{one.title}: {one.why}</li>{/each}
    </ul>
  {:else}
    <WhichOpen
      open={found.isPending ? undefined : (found.data?.items ?? [])}
      labels={{ into: t("commissions.into"), fresh: t("commissions.fresh"), name: t("commissions.name") }}
      bind:into
      bind:name
    />
    {#if !into && !found.isPending}
      <label class="flex items-center gap-2"
        ><Checkbox bind:checked={shared} />{t("commissions.shared")}</label
      >
    {/if}
    {#if pages}
      <label class="flex items-center gap-2"><Checkbox bind:checked={below} />{t("commissions.below")}</label>
    {/if}
    <label class="flex items-center gap-2"><Checkbox bind:checked={linked} />{t("commissions.linked")}</label>
  {/if}
</FormDialog>
