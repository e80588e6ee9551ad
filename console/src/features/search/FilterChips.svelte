<script lang="ts">
  import { t } from "../../lib/i18n";
  import { peopleQuery } from "../access/queries";
  import { listTopicsQuery } from "./queries";
  import Button from "../../ui/Button.svelte";
  import Modal from "../../ui/Modal.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import FilterOutline from "flowbite-svelte-icons/FilterOutline.svelte";
  import FilterSentence from "./FilterSentence.svelte";
  import type { Asking } from "./filters.svelte";

  /** What a list asks for where there is little room: what narrows it, one chip each, and the sentence behind an act. */
  let { asking, stages }: { asking: Asking; stages: Map<string, string> } = $props();
  let open = $state(false);
  const people = peopleQuery();
  const topics = listTopicsQuery();
  const chips = $derived(
    asking.chips({
      stages,
      people: new Map((people.data?.items ?? []).map((one) => [one.handle, one.name])),
      topics: new Map((topics.data?.items ?? []).map((one) => [one.id, one.title])),
    }),
  );
</script>

<div class="my-3 flex flex-wrap gap-2">
  <Button icon={FilterOutline} onclick={() => (open = true)}>{t("list.filter")}</Button>
  {#each chips as one (one.name)}
    <Button
      look="quiet"
      class="max-w-full rounded-full border border-hedge ps-3 text-sm text-hedge"
      aria-label={t("list.dropFilter", { what: one.said })}
      onclick={one.drop}
      ><span class="truncate">{one.said}</span><CloseOutline
        class="size-4 shrink-0"
        aria-hidden={true}
      /></Button
    >
  {/each}
</div>
<Modal bind:open title={t("list.filter")}>
  <FilterSentence {asking} {stages} />
  <Button look="main" onclick={() => (open = false)}>{t("list.show")}</Button>
</Modal>
