<script lang="ts">
  import { untrack } from "svelte";
  import Input from "./Input.svelte";
  import Select from "./Select.svelte";
  import Waiting from "./Waiting.svelte";

  /** One of some that are being put together (`into`, its id), or the name of a new one. */
  interface Props {
    open: { id: string; name: string }[] | undefined;
    labels: { into: string; fresh: string; name: string };
    into?: string;
    name?: string;
  }
  let { open, labels, into = $bindable(""), name = $bindable("") }: Props = $props();
  // The one that was put together last is most likely meant; said once, and before there is a choice, so that what somebody chose stays.
  let suggested = false;
  $effect(() => {
    const first = open?.[0]?.id;
    untrack(() => {
      if (!first || suggested) return;
      suggested = true;
      if (!name) into = first;
    });
  });
</script>

{#if !open}
  <Waiting />
{:else}
  <label class="flex flex-col gap-1"
    >{labels.into}
    <Select bind:value={into}>
      {#each open as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
      <option value="">{labels.fresh}</option>
    </Select></label
  >
  {#if !into}
    <label class="flex flex-col gap-1">{labels.name}<Input bind:value={name} maxlength={120} /></label>
  {/if}
{/if}
