<script lang="ts">
  import Canonical from "./Canonical.svelte";
  import type { Conflict } from "../api";
  import { t } from "../i18n";

  interface Props {
    conflicts: Conflict[];
    names: (uuid: string) => string;
    busy: boolean;
    onSettle: (decisions: Record<string, { take: "ours" | "theirs" | "both" }>) => void;
  }
  let { conflicts, names, busy, onSettle }: Props = $props();
  type Take = "ours" | "theirs" | "both";
  let takes = $state<Record<string, Take>>({});
  const all = $derived(conflicts.every((conflict) => takes[conflict.place]));
  let heading: HTMLElement;
  $effect(() => heading?.focus());

  function shown(value: unknown): string {
    if (value === null || value === undefined || value === "") return t("conflict.empty");
    if (Array.isArray(value)) return value.map(shown).join(", ");
    if (typeof value === "object") return JSON.stringify(value);
    return names(String(value));
  }

  function settle(): void {
    onSettle(Object.fromEntries(conflicts.map((c) => [c.place, { take: takes[c.place]! }])));
  }
</script>

<section class="sheet border-s-4 border-s-berry p-4" aria-labelledby="conflict-title">
  <h2
    id="conflict-title"
    tabindex="-1"
    bind:this={heading}
    class="text-lg font-semibold text-berry outline-none"
  >
    {t("conflict.title")}
  </h2>
  <p class="pb-3 text-moss">{t("conflict.intro")}</p>
  {#each conflicts as conflict (conflict.place)}
    <fieldset class="border-t py-3">
      <legend class="font-semibold">{conflict.label}</legend>
      <div class="grid gap-3 md:grid-cols-2">
        {#each ["ours", "theirs"] as const as side (side)}
          <label
            class="sheet flex cursor-pointer items-start gap-3 p-3 {takes[conflict.place] === side
              ? 'border-hedge'
              : ''}"
          >
            <input
              type="radio"
              class="mt-1.5"
              name={conflict.place}
              value={side}
              checked={takes[conflict.place] === side}
              onchange={() => (takes[conflict.place] = side)}
            />
            <span class="min-w-0">
              <span class="block text-sm font-semibold text-moss"
                >{t(side === "ours" ? "conflict.yours" : "conflict.theirs")}</span
              >
              {#if conflict.kind === "rich" && conflict[side]}
                <span class="prose-text block" lang={conflict.locale}
                  ><Canonical html={String(conflict[side])} /></span
                >
              {:else}
                <span class="font-serif" lang={conflict.locale}>{shown(conflict[side])}</span>
              {/if}
            </span>
          </label>
        {/each}
      </div>
      {#if conflict.kind === "rich" || conflict.kind === "text"}
        <label class="flex items-center gap-2 pt-2"
          ><input
            type="radio"
            name={conflict.place}
            value="both"
            checked={takes[conflict.place] === "both"}
            onchange={() => (takes[conflict.place] = "both")}
          />{t("conflict.both")}</label
        >
      {/if}
    </fieldset>
  {/each}
  <button class="act main mt-2" disabled={!all || busy} onclick={settle}>{t("conflict.settle")}</button>
</section>
