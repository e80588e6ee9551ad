<script lang="ts">
  import { untrack } from "svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { api, sure, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { peopleQuery } from "../access/queries";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import DateField from "../../ui/DateField.svelte";

  /** Assigning an edition to somebody. */
  interface Props {
    entry: Entry;
    onEntry: (entry: Entry) => void;
    onClose: () => void;
  }
  let { entry, onEntry, onClose }: Props = $props();
  const people = peopleQuery();
  let handle = $state(untrack(() => entry.assignment?.handle ?? ""));
  let due = $state(untrack(() => entry.assignment?.due ?? ""));
  let note = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);
  const params = $derived({ path: { id: entry.id, locale: entry.locale } });

  async function assign(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      onEntry(
        await sure(api.PUT("/api/entries/{id}/{locale}/assignment", { params, body: { handle, due, note } })),
      );
      onClose();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<form class="sheet mt-2 flex flex-col gap-3 p-3" onsubmit={assign}>
  <label class="flex flex-col gap-1 text-sm"
    >{t("assign.who")}
    <Select bind:value={handle} required>
      <option value="" disabled>{t("assign.choose")}</option>
      {#each people.data?.items ?? [] as one (one.handle)}<option value={one.handle}>{one.name}</option
        >{/each}
    </Select></label
  >
  <DateField class="text-sm" label={t("assign.by")} bind:value={due} />
  <label class="flex flex-col gap-1 text-sm">{t("assign.note")}<Input bind:value={note} /></label>
  {#if error}<Trouble {error} />{/if}
  <div class="flex flex-wrap gap-2">
    <Button look="main" type="submit" disabled={busy || !handle}>{t("assign.go")}</Button>
    <Button onclick={onClose}>{t("start.cancel")}</Button>
  </div>
</form>
