<script lang="ts">
  import "../../messages/release";
  import { untrack } from "svelte";
  import { api, once, sure, type Dispatch } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import MoveList from "./MoveList.svelte";

  /** Undo a dispatch that went: what goes back, and what has changed since, before it is done. */
  interface Props {
    one: Dispatch;
    onClose: () => void;
    onDone: (made: Dispatch) => void;
  }
  let { one, onClose, onDone }: Props = $props();
  const path = untrack(() => ({ id: one.id }));
  const header = once();
  let take = $state(false);
  let note = $state("");
  let busy = $state(false);
  const check = whileTyped(
    () => ({ take_changed: take }),
    (query) => sure(api.GET("/api/dispatches/{id}/undo", { params: { path, query } })),
    { pause: 0, keeps: true },
  );

  async function go(): Promise<void> {
    busy = true;
    try {
      const body = { take_changed: take, note };
      const made = await sure(api.POST("/api/dispatches/{id}/undo", { params: { path, header }, body }));
      onClose();
      onDone(made);
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open
  title={t("dispatch.undoTitle", { name: one.name })}
  size="md"
  go={t("dispatch.doUndo")}
  {busy}
  error={check.error}
  ready={!!check.found && !check.found.blocked}
  onclose={onClose}
  onsubmit={go}
>
  {#if check.found}
    {#if check.found.changed.length}
      <section aria-labelledby="changed-since">
        <h3 id="changed-since" class="pb-1 font-semibold">{t("dispatch.changedSince")}</h3>
        <MoveList moves={check.found.changed} />
        <label class="flex items-center gap-2 pt-2"
          ><Checkbox bind:checked={take} />{t("dispatch.takeChanged")}</label
        >
      </section>
    {/if}
    <section aria-labelledby="goes-back">
      <h3 id="goes-back" class="pb-1 font-semibold">{t("dispatch.goesBack")}</h3>
      {#if check.found.moves.length}<MoveList moves={check.found.moves} />{:else}<p class="text-moss">
          {t("dispatch.nothingGoesBack")}
        </p>{/if}
    </section>
    {#each check.found.warnings as warning, n (n)}<p class="text-straw">{warning}</p>{/each}
    <label class="flex flex-col gap-1">{t("dispatch.why")}<Input bind:value={note} /></label>
  {:else if !check.error}
    <Waiting lines={3} />
  {/if}
</FormDialog>
