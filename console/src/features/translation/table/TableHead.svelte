<script module lang="ts">
  /** Which sentences are shown. */
  export type Which = "all" | "open" | "look" | "returned";
</script>

<script lang="ts">
  import "../../../messages/translation";
  import type { Job, SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import Button from "../../../ui/Button.svelte";
  import Checkbox from "../../../ui/Checkbox.svelte";
  import Disclosure from "../../../ui/Disclosure.svelte";
  import Kbd from "../../../ui/Kbd.svelte";
  import Progress from "../../../ui/Progress.svelte";
  import Select from "../../../ui/Select.svelte";

  import DueOn from "../DueOn.svelte";
  import { isToTranslate } from "../states";
  import { KEYS } from "./names";

  interface Props {
    job: Job;
    lines: SegmentLine[];
    which: Which;
    context: boolean;
    acceptable: SegmentLine[];
    busy: boolean;
    /** Whether more of a long job is on its way. */
    loading: boolean;
    onDeliver: () => void;
    onFill: () => void;
    onAccept: () => void;
    onNext: () => unknown;
  }
  let {
    job,
    lines,
    which = $bindable(),
    context = $bindable(),
    acceptable,
    busy,
    loading,
    onDeliver,
    onFill,
    onAccept,
    onNext,
  }: Props = $props();
  const done = $derived(lines.filter((one) => one.state !== "initial").length);
  /** Whether anything is translated that is not in the edition. */
  const ready = $derived(lines.some((one) => one.unit_state === "translated" && !one.outcome && one.by));
</script>

<h1 class="pb-1 text-2xl font-semibold">{job.name} <span class="text-moss">→ {job.locale_name}</span></h1>
{#if job.due}<p class="text-moss"><DueOn due={job.due} open={isToTranslate(job)} /></p>{/if}
{#if job.note}<p class="pb-1 text-moss">{job.note}</p>{/if}
<Progress value={done} max={lines.length} label={t("table.progress", { done, count: lines.length })} />
<p class="pb-2 text-sm text-moss" role="status">
  {t("table.progress", { done, count: lines.length })}{loading ? ` ${t("table.loading")}` : ""}
</p>
<div class="flex flex-wrap items-center gap-2 pb-2">
  {#if job.may_translate}
    <Button
      look={ready && done === lines.length ? "main" : "plain"}
      disabled={busy || !lines.some((one) => one.unit_state === "translated")}
      onclick={onDeliver}>{t("table.deliver")}</Button
    >
    <Button onclick={onNext}>{t("table.nextOpen")}</Button>
    {#if done < lines.length}<Button disabled={busy} onclick={onFill}>{t("table.fill")}</Button>{/if}
  {/if}
  {#if job.may_accept && acceptable.length}
    <Button disabled={busy} onclick={onAccept}>{t("table.acceptShown", { count: acceptable.length })}</Button>
  {/if}
  <Select inline aria-label={t("table.show")} bind:value={which}>
    {#each ["all", "open", "look", "returned"] as const as one (one)}<option value={one}
        >{t(`table.which.${one}`)}</option
      >{/each}
  </Select>
  <label class="flex items-center gap-2 text-sm max-xl:hidden"
    ><Checkbox bind:checked={context} />{t("table.context")}</label
  >
</div>
{#if job.may_translate}
  <Disclosure title={t("table.keys")} class="pb-2">
    <ul class="flex flex-wrap gap-x-4 gap-y-1 text-sm">
      {#each Object.entries(KEYS) as [act, key] (act)}<li><Kbd>{key}</Kbd> {t(`table.key.${act}`)}</li>{/each}
    </ul>
  </Disclosure>
{/if}
