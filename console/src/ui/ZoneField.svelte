<script lang="ts">
  import type { ClassValue } from "svelte/elements";
  import { session } from "../lib/state/session.svelte";
  import Select from "./Select.svelte";

  /** A time zone (IANA). One's own and the one that is chosen come first, then all by name, each with how far it is from UTC now. */
  let {
    value = $bindable(),
    label,
    shown = true,
    disabled = false,
    class: extra,
    onvalue,
  }: {
    value: string;
    label: string;
    /** Whether the label stands above it, or is only said. */
    shown?: boolean;
    disabled?: boolean;
    class?: ClassValue;
    onvalue?: (zone: string) => void;
  } = $props();
  const zones = $derived([
    ...new Set([value, session.me?.zone ?? "UTC", "UTC", ...Intl.supportedValuesOf("timeZone")]),
  ]);

  /** How far a zone is from UTC, in hours; empty for UTC itself. */
  function offset(zone: string): string {
    const parts = new Intl.DateTimeFormat("en", {
      timeZone: zone,
      timeZoneName: "longOffset",
    }).formatToParts();
    return parts.find((one) => one.type === "timeZoneName")?.value.replace("GMT", "") ?? "";
  }
  /** Working out four hundred offsets takes a while: they are said once the list is opened. */
  let open = $state(false);
</script>

{#snippet select()}
  <Select
    bind:value
    aria-label={shown ? undefined : label}
    {disabled}
    class={extra}
    onfocus={() => (open = true)}
    onchange={(event) => onvalue?.(event.currentTarget.value)}
  >
    {#each zones as one (one)}
      <option value={one}>{one.replaceAll("_", " ")}{open && offset(one) ? ` (${offset(one)})` : ""}</option>
    {/each}
  </Select>
{/snippet}

{#if shown}<label class="flex flex-col gap-1">{label} {@render select()}</label>{:else}{@render select()}{/if}
