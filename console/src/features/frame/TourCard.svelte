<script lang="ts">
  import "../../messages/tour";
  import { untrack } from "svelte";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { STEPS, tour } from "../../lib/state/tour.svelte";
  import { navigate } from "../../router";
  import Button from "../../ui/Button.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  /** One step of the tour, over the page that it is about. Whoever takes it can do there what they like meanwhile. */
  let head = $state<HTMLElement>();
  const step = $derived(STEPS[tour.at]);
  $effect(() => {
    if (step) untrack(() => void show(step));
  });

  async function show(one: (typeof STEPS)[number]): Promise<void> {
    await navigate((one.name === "entry" ? await anEntry() : one.to) as "/");
    head?.focus();
  }

  /** Where an entry is, that somebody may look at; where there is none, all of them. */
  async function anEntry(): Promise<string> {
    try {
      const found = await sure(api.GET("/api/entries", { params: { query: { limit: 1 } } }));
      const first = found.items[0];
      return first ? `/entries/${first.id}/${first.locale}` : "/entries";
    } catch {
      return "/entries";
    }
  }

  function onKey(event: KeyboardEvent): void {
    // Where something else is open, that is what Escape closes.
    if (event.key === "Escape" && (event.target as HTMLElement).closest("[data-tour]")) tour.go(-1);
  }
</script>

<svelte:window onkeydown={onKey} />
{#if step}
  <section
    aria-label={t("tour.label")}
    data-tour
    class="sheet fixed end-4 bottom-4 z-40 flex w-96 max-w-[calc(100vw-2rem)] flex-col gap-2 border-s-4 border-s-hedge p-4 shadow-lg print:hidden"
  >
    <div class="flex items-start justify-between gap-2">
      <p class="text-sm text-moss">{t("tour.step", { n: tour.at + 1, all: STEPS.length })}</p>
      <Button look="quiet" icon={CloseOutline} label={t("tour.leave")} onclick={() => tour.go(-1)} />
    </div>
    <h2 class="text-lg font-semibold outline-none" tabindex="-1" bind:this={head}>
      {t(`tour.${step.name}`)}
    </h2>
    <p aria-live="polite">{t(`tour.${step.name}About`)}</p>
    <div class="flex justify-end gap-2 pt-1">
      {#if tour.at}<Button onclick={() => tour.go(tour.at - 1)}>{t("tour.back")}</Button>{/if}
      <Button look="main" onclick={() => tour.go(tour.at + 1)}
        >{t(tour.at + 1 < STEPS.length ? "tour.next" : "tour.end")}</Button
      >
    </div>
  </section>
{/if}
