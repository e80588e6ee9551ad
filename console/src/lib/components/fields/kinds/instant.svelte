<script lang="ts">
  import { t } from "../../../i18n";
  import { session } from "../../../state/session.svelte";
  import type { FieldProps } from "../props";
  import Input from "../../../../ui/Input.svelte";
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
  <Input
    {id}
    class="max-w-64!"
    type="datetime-local"
    value={now?.wall.slice(0, 16) ?? ""}
    {readonly}
    oninput={(event) => type(event.currentTarget.value, zone)}
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
