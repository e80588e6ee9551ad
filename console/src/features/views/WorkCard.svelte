<script lang="ts">
  import type { Snippet } from "svelte";
  import type { WorkLine } from "../../lib/api";
  import { day, t, when } from "../../lib/i18n";
  import { place } from "./work";

  /** One thing to be done: what, from whom, until when, and what can be done about it here. What an act opens stands below. */
  let {
    line,
    waits = false,
    acts,
    children,
  }: { line: WorkLine; waits?: boolean; acts?: Snippet; children?: Snippet } = $props();
  const edge = $derived(waits ? "border-s-4 border-s-berry" : line.state ? "border-s-4 border-s-straw" : "");
  const about = $derived(
    [
      [line.type, line.locale].filter(Boolean).join(", "),
      line.by && t("myWork.from", { by: line.by }),
      line.at && when(line.at),
    ]
      .filter(Boolean)
      .join(" · "),
  );
</script>

<li class={["sheet px-4 py-2.5", edge]}>
  <div class="flex flex-wrap items-center gap-x-3 gap-y-1">
    <div class="min-w-56 flex-1">
      <a class="font-serif text-lg font-semibold" href={place(line)}>{line.title}</a>
      <p class="text-sm text-moss">
        {about}{#if line.due}&nbsp;· <span class={line.state ? "font-semibold text-straw" : ""}
            >{t(line.state === "late" ? "assign.late" : "assign.due", { day: day(line.due) })}</span
          >{/if}
      </p>
    </div>
    {#if acts}<div class="flex flex-wrap items-center gap-2">{@render acts()}</div>{/if}
  </div>
  {#if line.note}<p class="mt-1" dir="auto">{t("quoted", { text: line.note })}</p>{/if}
  {@render children?.()}
</li>
