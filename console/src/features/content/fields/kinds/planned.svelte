<script lang="ts">
  import { t, when } from "../../../../lib/i18n";
  import type { FieldProps } from "../props";
  import InstantField from "./instant.svelte";

  /** A time at which something is done with the entry, and what came of it: planned, waiting for a sign-off, done. */
  let { spec, entry, value, readonly, onType, id, version }: FieldProps = $props();
  const came = $derived(entry.planned_fields.find((one) => one.field === spec.name));
</script>

<InstantField {spec} {entry} {value} {readonly} {onType} {id} {version} />
{#if came}
  <p class="text-sm text-moss" role="status">
    {#if came.state === "wish"}
      {#if !came.trouble}{t("fields.planned.wish")}{/if}
    {:else if came.state}
      {t(`fields.planned.${came.state}`, { when: when(came.instant ?? "") })}
    {/if}
    {#if came.dispatch}<a href="/timetable/{came.dispatch}">{t("fields.planned.look")}</a>{/if}
  </p>
  {#if came.trouble}<p class="text-sm text-straw">{came.trouble}</p>{/if}
{/if}
