<script lang="ts">
  import "../../messages/release";
  import { t, when } from "../../lib/i18n";
  import { Problem, type WhenAsk } from "../../lib/api";
  import { session } from "../../lib/state/session.svelte";
  import DateField from "../../ui/DateField.svelte";
  import Radio from "../../ui/Radio.svelte";
  import ZoneField from "../../ui/ZoneField.svelte";

  /** When something goes: a wall time in a time zone, and at a clock change which of two equal ones. `error` may ask for that. */
  let {
    asked = $bindable(null),
    error = null,
    label = t("plan.day"),
  }: { asked?: WhenAsk | null; error?: unknown; label?: string } = $props();
  let wall = $state("");
  let zone = $state(session.me?.zone ?? "UTC");
  let fold = $state<"" | "earlier" | "later">("");
  $effect(() => {
    asked = wall ? { wall, zone, fold, instant: "" } : null;
  });
  type Choice = { fold: "earlier" | "later"; instant: string };
  const twice = $derived(
    error instanceof Problem && error.slug === "bad-time" && Array.isArray(error.facts.choices)
      ? error.facts.choices.filter((one): one is Choice => typeof one !== "string")
      : [],
  );
</script>

<div class="grid gap-3 sm:grid-cols-2">
  <DateField time {zone} {label} bind:value={wall} />
  <ZoneField label={t("plan.zone")} bind:value={zone} />
</div>
{#each twice as choice (choice.fold)}
  <Radio name="fold" bind:group={fold} value={choice.fold}
    >{t(choice.fold === "earlier" ? "plan.earlier" : "plan.later2")} ({when(choice.instant)})</Radio
  >
{/each}
