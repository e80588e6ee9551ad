<script lang="ts">
  import "../../messages/release";
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate } from "../../router";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Radio from "../../ui/Radio.svelte";
  import { chosen, moveOf } from "./ask";
  import StageField, { betweenStages } from "./StageField.svelte";
  import WhichDispatch from "./WhichDispatch.svelte";

  /** Put entries into a dispatch that is being put together, or into a new one. */
  interface Props {
    items: { id: string; locale: string }[];
    /** Whether what lies below them can come along. */
    pages?: boolean;
    onClose: () => void;
    onDone?: () => void;
  }
  let { items, pages = false, onClose, onDone }: Props = $props();
  const queries = useQueryClient();
  let into = $state("");
  let name = $state("");
  let verb = $state<"release" | "withdraw" | "archive" | "remove" | "advance">("release");
  let stage = $state("");
  const between = betweenStages();
  let follows = $state(false);
  let below = $state(untrack(() => pages));
  let busy = $state(false);
  let error = $state<unknown>(null);

  async function go(): Promise<void> {
    busy = true;
    error = null;
    const moves = items.map((one) =>
      moveOf(one.id, one.locale, {
        verb,
        follows: follows && verb === "release",
        payload: verb === "advance" ? { stage: stage || between[0]?.name } : {},
      }),
    );
    try {
      const id = await chosen(into, name);
      const made = await sure(
        api.POST("/api/dispatches/{id}/moves", {
          params: { path: { id } },
          body: { moves, below: pages && below },
        }),
      );
      onClose();
      await queries.invalidateQueries();
      toasts.offer(
        t("dispatch.added", { name: made.name, count: made.count }),
        t("dispatch.look"),
        () => void navigate("/timetable/:id", { params: { id } }),
      );
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
  title={t("dispatch.addTitle", { count: items.length })}
  go={t("dispatch.doAdd")}
  {busy}
  {error}
  ready={!!into || name.trim() !== ""}
  onclose={onClose}
  onsubmit={go}
>
  <WhichDispatch bind:into bind:name />
  <fieldset class="flex flex-wrap gap-5">
    <legend class="pb-1">{t("dispatch.what")}</legend>
    <Radio name="verb" bind:group={verb} value="release">{t("verb.release")}</Radio>
    <Radio name="verb" bind:group={verb} value="withdraw">{t("verb.withdraw")}</Radio>
    {#if between.length}<Radio name="verb" bind:group={verb} value="advance">{t("verb.advance")}</Radio>{/if}
    <Radio name="verb" bind:group={verb} value="archive">{t("verb.archive")}</Radio>
    <Radio name="verb" bind:group={verb} value="remove">{t("verb.remove")}</Radio>
  </fieldset>
  {#if verb === "advance"}<StageField bind:stage />{/if}
  {#if verb === "release"}
    <label class="flex items-start gap-2"><Checkbox bind:checked={follows} />{t("dispatch.follows")}</label>
  {/if}
  {#if pages}
    <label class="flex items-center gap-2"><Checkbox bind:checked={below} />{t("dispatch.below")}</label>
  {/if}
</FormDialog>
