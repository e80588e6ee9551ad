<script lang="ts">
  import type { components } from "../../lib/api/schema";
  import { t } from "../../lib/i18n";
  import { plain } from "./plain";
  import Button from "../../ui/Button.svelte";

  type Piece = components["schemas"]["Piece"];
  interface Props {
    pieces: Piece[];
    lang: string;
    /** What is agreed, with a choice for each contested place; nothing while one is open. */
    onCompose: (text: string | null) => void;
  }
  let { pieces, lang, onCompose }: Props = $props();
  let takes = $state<Record<number, "ours" | "theirs" | "both">>({});

  function take(at: number, side: "ours" | "theirs" | "both"): void {
    takes = { ...takes, [at]: side };
    const open = pieces.some((piece, n) => piece.contested && !takes[n]);
    onCompose(open ? null : pieces.map((piece, n) => text(piece, n)).join(""));
  }

  function text(piece: Piece, n: number): string {
    if (!piece.contested) return piece.text;
    const side = takes[n];
    if (side !== "both") return piece[side ?? "theirs"];
    const apart = /\s$/.test(piece.theirs) || /^\s/.test(piece.ours) ? "" : " ";
    return piece.theirs + apart + piece.ours;
  }
</script>

<div class="prose-text" {lang} dir="auto">
  {#each pieces as piece, n (n)}{#if !piece.contested}{plain(piece.text)}{:else}<span
        class="mx-1 inline-flex flex-wrap gap-1 align-baseline font-sans text-base"
        role="radiogroup"
        aria-label={t("conflict.here")}
        >{#each ["ours", "theirs", "both"] as const as side (side)}<Button
            look="quiet"
            role="radio"
            aria-checked={takes[n] === side}
            class="border px-1.5 {takes[n] === side ? 'border-hedge bg-new' : 'border-edge bg-sheet'}"
            title={t(
              side === "both" ? "conflict.both" : side === "ours" ? "conflict.yours" : "conflict.theirs",
            )}
            onclick={() => take(n, side)}
            >{#if side === "both"}{t("conflict.both")}{:else}<span class="sr-only"
                >{t(side === "ours" ? "conflict.yours" : "conflict.theirs")}:
              </span>{plain(piece[side]).trim() || t("conflict.nothing")}{/if}</Button
          >{/each}</span
      >{/if}{/each}
</div>
