<script lang="ts">
  import "../../messages/translation";
  import type { JobLine } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import Progress from "../../ui/Progress.svelte";
  import DueOn from "./DueOn.svelte";
  import { isMoving, isToTranslate } from "./states";

  let { job }: { job: JobLine } = $props();
</script>

<div class="sheet px-4 py-3 {job.state === 'returned' ? 'border-s-4 border-s-berry' : ''}">
  <div class="flex flex-wrap items-baseline gap-x-3">
    <a class="font-semibold" href="/translation/{job.id}">{job.name}</a>
    <span>{job.source_locale} → <span lang={job.locale}>{job.locale_name}</span></span>
    <span class={job.state === "failed" ? "font-semibold text-straw" : "text-moss"}
      >{t(`jobs.state.${job.state}`)}</span
    >
    <span class="ms-auto text-sm text-moss"
      >{t("jobs.words", { count: job.words })} · {job.bureau ||
        job.translator ||
        t("jobs.byHand")}{#if job.due}&nbsp;·
        <DueOn due={job.due} open={isToTranslate(job)} />{/if} · {when(job.changed_at)}</span
    >
  </div>
  {#if isMoving(job) && (job.bureau || job.percent)}
    <Progress class="mt-2" value={job.percent} label={t("jobs.progress", { percent: job.percent })} />
    <p class="text-sm text-moss">{t("jobs.progress", { percent: job.percent })}</p>
  {/if}
  {#if job.trouble}<p class="text-straw">{job.trouble}</p>{/if}
</div>
