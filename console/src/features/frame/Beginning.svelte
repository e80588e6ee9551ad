<script lang="ts">
  import { Kept } from "../../lib/state/kept.svelte";
  import { t } from "../../lib/i18n";
  import { tour } from "../../lib/state/tour.svelte";
  import Button from "../../ui/Button.svelte";
  import { session } from "../../lib/state/session.svelte";

  /** The first steps of a new house, for whoever sets it up, until they are done or left. Elsewhere nothing of them is loaded. */
  const beginning = new Kept("beginning", true);
  /** Whether the tour was taken, or left alone. */
  const offered = new Kept("tour-offered", false);

  function take(): void {
    offered.value = true;
    tour.go(0);
  }
</script>

{#if !offered.value && !tour.on}
  <p class="mt-3 flex flex-wrap items-center gap-2 text-moss">
    {t("beginning.new")}
    <Button onclick={take}>{t("beginning.tour")}</Button>
    <Button look="quiet" onclick={() => (offered.value = true)}>{t("beginning.no")}</Button>
  </p>
{/if}

{#if beginning.value && session.may("configure")}
  {#await import("./FirstSteps.svelte") then part}<part.default
      over={() => (beginning.value = false)}
    />{/await}
{/if}
