<script lang="ts">
  import { t } from "../../../../lib/i18n";
  import type { FieldProps } from "../props";
  import Input from "../../../../ui/Input.svelte";

  interface Place {
    latitude: number | null;
    longitude: number | null;
  }
  let { value, readonly, onType, id }: FieldProps = $props();
  let typed = $state<Partial<Place>>({});
  const now = $derived({ ...((value as Place | null | undefined) ?? {}), ...typed } as Partial<Place>);

  function type(part: "latitude" | "longitude", text: string, number: number): void {
    typed = { ...now, [part]: text === "" ? null : number };
    const { latitude, longitude } = typed;
    if (latitude == null && longitude == null) onType(null);
    else if (latitude != null && longitude != null) onType({ latitude, longitude });
  }
</script>

<div class="flex flex-wrap gap-3">
  {#each ["latitude", "longitude"] as const as part (part)}
    <label class="flex items-center gap-2 text-sm"
      >{t(`fields.${part}`)}
      <Input
        id={part === "latitude" ? id : undefined}
        class="w-36!"
        type="number"
        step="any"
        min={part === "latitude" ? -90 : -180}
        max={part === "latitude" ? 90 : 180}
        value={now[part] ?? ""}
        {readonly}
        oninput={(event) => type(part, event.currentTarget.value, event.currentTarget.valueAsNumber)}
      />
    </label>
  {/each}
</div>
{#if (now.latitude == null) !== (now.longitude == null)}<p class="text-sm text-straw" role="status">
    {t("fields.bothNumbers")}
  </p>{/if}
