<script lang="ts">
  import "../../../messages/translation";
  import type { MemoryMatch, SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import Badge from "../../../ui/Badge.svelte";
  import Button from "../../../ui/Button.svelte";
  import Runs from "../../content/Runs.svelte";
  import Words from "./Words.svelte";
  import { KEYS } from "./names";

  /** What the memories have that is like the sentence at hand, with the words that differ marked. */
  interface Props {
    line: SegmentLine;
    matches: MemoryMatch[];
    target: string;
    onUse: (target: string) => void;
  }
  let { line, matches, target, onUse }: Props = $props();
</script>

{#if matches.length}
  <ul class="flex flex-col gap-2 border-t pt-2 text-sm" aria-label={t("table.matches")}>
    {#each matches as one, n (one.id)}
      <li class="flex gap-2">
        <span class="shrink-0"
          ><Badge tone={one.percent >= 100 ? "hedge" : "slate"}
            >{t("table.percent", { percent: Math.min(one.percent, 100) })}</Badge
          ></span
        >
        <div class="min-w-0 flex-1">
          {#if one.percent < 100}<p class="text-moss"><Runs runs={one.runs} /></p>{/if}
          <p lang={target} dir="auto"><Words sentence={one.target} tags={line.tags} /></p>
          <p class="text-moss">
            {[
              one.percent > 100 ? t("table.inContext") : "",
              ...one.penalties.map((off) => t(`table.off.${off}`)),
              one.by,
              one.memory,
            ]
              .filter(Boolean)
              .join(" · ")}
          </p>
        </div>
        <Button
          class="self-start px-2 py-0.5 text-sm"
          title={n === 0 ? t("table.withKey", { key: KEYS.match }) : undefined}
          onclick={() => onUse(one.target)}>{t("table.use")}</Button
        >
      </li>
    {/each}
  </ul>
{/if}
