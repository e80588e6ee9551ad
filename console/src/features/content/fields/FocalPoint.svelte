<script lang="ts">
  import type { FileValue } from "../../../lib/api";
  import { cut } from "../../../lib/crops";
  import { t } from "../../../lib/i18n";
  import { session } from "../../../lib/state/session.svelte";
  import Button from "../../../ui/Button.svelte";

  interface Props {
    file: FileValue;
    readonly: boolean;
    onFocus: (focus: [number, number] | null) => void;
  }
  let { file, readonly, onFocus }: Props = $props();
  const width = $derived(file.width ?? 1);
  const height = $derived(file.height ?? 1);
  const x = $derived(file.focus?.[0] ?? 50);
  const y = $derived(file.focus?.[1] ?? 50);
  const crops = $derived((session.setup?.crops ?? []).filter((crop) => crop.height));

  function choose(event: MouseEvent & { currentTarget: HTMLElement }): void {
    if (readonly || event.detail === 0) return;
    const box = event.currentTarget.getBoundingClientRect();
    onFocus([
      Math.round(((event.clientX - box.left) / box.width) * 100),
      Math.round(((event.clientY - box.top) / box.height) * 100),
    ]);
  }

  function onKey(event: KeyboardEvent): void {
    const step = event.shiftKey ? 10 : 2;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[
      event.key
    ];
    if (!by || readonly) return;
    event.preventDefault();
    const within = (n: number) => Math.min(100, Math.max(0, n));
    onFocus([within(x + by[0]!), within(y + by[1]!)]);
  }
</script>

<div class="flex flex-col gap-3 sm:flex-row">
  <div class="min-w-0 sm:max-w-md">
    <Button
      look="quiet"
      class="relative block w-full cursor-crosshair"
      disabled={readonly}
      aria-label={t("focus.label", { x, y })}
      aria-describedby="focus-help"
      onclick={choose}
      onkeydown={onKey}
    >
      <img src="/api/files/{file.sha256}" alt="" class="block w-full rounded" />
      <span
        class="pointer-events-none absolute size-7 -translate-x-1/2 -translate-y-1/2 rounded-full border-3 border-white shadow-[0_0_0_2px_#000]"
        style:left="{x}%"
        style:top="{y}%"
        aria-hidden="true"
      ></span>
    </Button>
    <p id="focus-help" class="pt-1 text-sm text-moss" role="status">
      {file.focus ? t("focus.at", { x, y }) : t("focus.middle")}
      {#if !readonly}{t("focus.help")}{/if}
      {#if file.focus && !readonly}<Button look="link" onclick={() => onFocus(null)}
          >{t("focus.clear")}</Button
        >{/if}
    </p>
  </div>
  <ul class="flex flex-wrap content-start gap-3" aria-label={t("focus.crops")}>
    {#each crops as crop (crop.name)}
      {@const kept = cut(crop, width, height, x, y)}
      {@const scale = 150 / Math.max(kept.width, kept.height)}
      <li class="text-sm">
        <div
          class="relative overflow-hidden rounded border"
          style:width="{kept.width * scale}px"
          style:height="{kept.height * scale}px"
        >
          <img
            src="/api/files/{file.sha256}"
            alt=""
            class="absolute max-w-none"
            style:width="{width * scale}px"
            style:left="{-kept.left * scale}px"
            style:top="{-kept.top * scale}px"
          />
        </div>
        <span class="block max-w-40">{crop.label || crop.name}</span>
        <span class="block max-w-40 text-moss">{crop.use}</span>
      </li>
    {/each}
  </ul>
</div>
