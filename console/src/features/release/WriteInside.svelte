<script lang="ts">
  import "../../messages/release";
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, once, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { navigate } from "../../router";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import { dispatchOf, strandOf } from "./ask";
  import { waitingQuery } from "./queries";

  /** Write an entry inside a dispatch that is being put together, or in a new one. */
  interface Props {
    entry: { id: string; locale: string };
    onClose: () => void;
  }
  let { entry, onClose }: Props = $props();
  const queries = useQueryClient();
  const found = waitingQuery("open");
  const open = $derived(found.data?.items ?? []);
  let into = $state("");
  let name = $state("");
  let busy = $state(false);
  let error = $state<unknown>(null);
  // The one that was put together last is most likely meant.
  $effect(() => {
    const first = open[0]?.id;
    untrack(() => {
      if (first && !into && !name) into = first;
    });
  });

  async function go(): Promise<void> {
    busy = true;
    error = null;
    try {
      let id = into;
      if (!id) {
        const body = dispatchOf([], { name, open: true });
        id = (await sure(api.POST("/api/dispatches", { params: { header: once() }, body }))).id;
      }
      const made = await sure(
        api.POST("/api/dispatches/{id}/write", { params: { path: { id } }, body: entry }),
      );
      onClose();
      await queries.invalidateQueries();
      await navigate(strandOf(made) as "/");
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open
  title={t("dispatch.inside.title")}
  go={t("dispatch.inside.go")}
  {busy}
  {error}
  ready={!!into || name.trim() !== ""}
  onclose={onClose}
  onsubmit={go}
>
  <p class="text-moss">{t("dispatch.inside.about")}</p>
  <label class="flex flex-col gap-1"
    >{t("dispatch.into")}
    <Select bind:value={into}>
      {#each open as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
      <option value="">{t("dispatch.new")}</option>
    </Select></label
  >
  {#if !into}
    <label class="flex flex-col gap-1">{t("dispatch.name")}<Input bind:value={name} maxlength={120} /></label>
  {/if}
</FormDialog>
