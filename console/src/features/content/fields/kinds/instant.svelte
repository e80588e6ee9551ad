<script lang="ts">
  import { t } from "../../../../lib/i18n";
  import { session } from "../../../../lib/state/session.svelte";
  import type { FieldProps } from "../props";
  import DateField from "../../../../ui/DateField.svelte";
  import Select from "../../../../ui/Select.svelte";

  interface Instant {
    wall: string;
    zone: string;
  }
  let { value, readonly, onType, id }: FieldProps = $props();
  const now = $derived((value as Instant | null | undefined) ?? null);
  const zone = $derived(now?.zone ?? session.me?.zone ?? "UTC");
  const zones = $derived([...new Set([zone, "UTC", ...Intl.supportedValuesOf("timeZone")])]);

  function type(wall: string, where: string): void {
    onType(wall ? { wall, zone: where } : null);
  }
</script>

<div class="flex flex-wrap gap-2">
  <DateField
    time
    {id}
    {zone}
    value={now?.wall.slice(0, 16) ?? ""}
    {readonly}
    onvalue={(wall) => type(wall, zone)}
  />
  <Select
    class="max-w-64"
    aria-label={t("fields.zone")}
    disabled={readonly}
    value={zone}
    onchange={(event) => now && type(now.wall, event.currentTarget.value)}
  >
    {#each zones as one (one)}<option value={one}>{one}</option>{/each}
  </Select>
</div>
