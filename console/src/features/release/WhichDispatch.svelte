<script lang="ts">
  import "../../messages/release";
  import { untrack } from "svelte";
  import { t } from "../../lib/i18n";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { waitingQuery } from "./queries";

  /** One of the dispatches that are being put together (`into`, its id), or the name of a new one. */
  let { into = $bindable(""), name = $bindable("") }: { into?: string; name?: string } = $props();
  const found = waitingQuery("open");
  const open = $derived(found.data?.items ?? []);
  // The one that was put together last is most likely meant; said once, and before there is a choice, so that what somebody chose stays.
  let suggested = false;
  $effect(() => {
    const first = open[0]?.id;
    untrack(() => {
      if (!first || suggested) return;
      suggested = true;
      if (!name) into = first;
    });
  });
</script>

{#if found.isPending}
  <Waiting />
{:else}
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
{/if}
