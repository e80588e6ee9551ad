<script lang="ts">
  import "../../messages/translation";
  import type { GridCell } from "../../lib/api";
  import { day, t } from "../../lib/i18n";

  /** What an entry is in one language: a mark, its words, and how much is due. */
  let { cell, entry }: { cell: GridCell; entry: string } = $props();
  const MARKS: Record<string, string> = {
    none: "–",
    "in a job": "…",
    draft: "◔",
    "out of date": "◐",
    ready: "○",
    out: "●",
    "out and out of date": "◉",
  };
  const LOOK: Record<string, string> = {
    "out of date": "text-straw",
    "out and out of date": "text-straw font-semibold",
    out: "text-hedge",
    ready: "text-hedge",
    "in a job": "text-slate",
  };
  const href = $derived(cell.job ? `/translation/${cell.job}` : `/entries/${entry}/${cell.locale}`);
  const more = $derived(
    cell.state === "in a job"
      ? t(cell.day ? "coverage.jobUntil" : "coverage.job", {
          percent: cell.percent,
          day: cell.day && day(cell.day),
        })
      : cell.state !== "none" && cell.due
        ? t("coverage.due", { due: cell.due, units: cell.units })
        : "",
  );
</script>

<a class={["inline-block", LOOK[cell.state] ?? "text-moss"]} {href}
  ><span aria-hidden="true">{MARKS[cell.state]}</span>
  {t(`coverage.state.${cell.state}`)}{#if more}<span class="block text-sm">{more}</span>{/if}</a
>
