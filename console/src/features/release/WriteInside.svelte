<script lang="ts">
  import "../../messages/release";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { navigate } from "../../router";
  import FormDialog from "../../ui/FormDialog.svelte";
  import { chosen, strandOf } from "./ask";
  import WhichDispatch from "./WhichDispatch.svelte";

  /** Write an entry inside a dispatch that is being put together, or in a new one. */
  interface Props {
    entry: { id: string; locale: string };
    onClose: () => void;
  }
  let { entry, onClose }: Props = $props();
  const queries = useQueryClient();
  let into = $state("");
  let name = $state("");
  let busy = $state(false);
  let error = $state<unknown>(null);

  async function go(): Promise<void> {
    busy = true;
    error = null;
    try {
      const id = await chosen(into, name);
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
  <WhichDispatch bind:into bind:name />
</FormDialog>
