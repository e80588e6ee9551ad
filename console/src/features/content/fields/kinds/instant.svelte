<script lang="ts">
  import { t } from "../../../../lib/i18n";
  import { session } from "../../../../lib/state/session.svelte";
  import type { FieldProps } from "../props";
  import DateField from "../../../../ui/DateField.svelte";
  import ZoneField from "../../../../ui/ZoneField.svelte";

  interface Instant {
    wall: string;
    zone: string;
  }
  let { value, readonly, onType, id }: FieldProps = $props();
  const now = $derived((value as Instant | null | undefined) ?? null);
  const zone = $derived(now?.zone ?? session.me?.zone ?? "UTC");

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
  <ZoneField
    class="max-w-64"
    label={t("fields.zone")}
    shown={false}
    disabled={readonly}
    value={zone}
    onvalue={(chosen) => now && type(now.wall, chosen)}
  />
</div>
