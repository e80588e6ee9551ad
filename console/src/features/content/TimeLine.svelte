<script lang="ts">
  import type { Entry } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { stageNames } from "../../lib/names";
  import { moment } from "../../lib/state/moment.svelte";
  import Button from "../../ui/Button.svelte";
  import { spans, type Span, type Stood } from "./spans";

  /**
   * What stood of an edition when, and what will by what is planned: a line for each stage to see it at a glance, and under it each
   * stretch in words, as a way to look at it.
   */
  let { entry, standings }: { entry: Entry; standings: Stood[] } = $props();
  const names = stageNames({ after: true });
  const now = Date.now();
  const line = $derived(spans(standings, entry.planned, now));
  const called = (stage: string) => names.get(stage) ?? stage;
  const said = (instant: number) => when(new Date(instant).toISOString());
  const told = (stage: string, span: Span) =>
    t(`history.${span.planned ? "planned" : "stood"}${span.until === null ? "Since" : "Between"}`, {
      stage: called(stage),
      number: span.revision ?? t("history.approved"),
      from: said(span.from),
      until: span.until === null ? "" : said(span.until),
    });
  const stretches = $derived(
    line.stages
      .flatMap(({ name, spans }) => spans.map((span) => ({ name, span })))
      .sort((a, b) => b.span.from - a.span.from),
  );
</script>

{#if stretches.length}
  <h2 class="font-sans pb-2 font-semibold">{t("history.line")}</h2>
  <div class="grid grid-cols-[auto_1fr] items-center gap-x-3 gap-y-1 pb-2 text-sm" aria-hidden="true">
    {#each line.stages as stage (stage.name)}
      <span class="text-moss">{called(stage.name)}</span>
      <span class="relative h-6 rounded bg-wash">
        {#each stage.spans as span (span.from)}
          <span
            class="absolute inset-y-1 overflow-hidden rounded-sm text-center text-xs leading-4 {span.planned
              ? 'border border-dashed border-slate bg-sheet text-slate'
              : 'bg-hedge text-hedge-ink'}"
            style="inset-inline-start: {span.start}%; width: {span.width}%"
            >{span.width > 6 && span.revision ? span.revision : ""}</span
          >
        {/each}
        <span class="absolute inset-y-0 w-0.5 bg-straw" style="inset-inline-start: {line.now}%"></span>
      </span>
    {/each}
  </div>
  <ul class="pb-5 text-sm" aria-label={t("history.line")}>
    {#each stretches as { name, span } (name + span.from)}
      <li>
        <Button
          look="row"
          title={t("history.lookThen")}
          onclick={() => moment.go(new Date(span.from + 1000).toISOString())}>{told(name, span)}</Button
        >
      </li>
    {/each}
  </ul>
{/if}
