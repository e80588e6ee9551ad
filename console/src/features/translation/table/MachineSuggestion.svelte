<script lang="ts">
  import "../../../messages/translation";
  import { createQuery } from "@tanstack/svelte-query";
  import { api, Problem, sure, type SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { session } from "../../../lib/state/session.svelte";
  import Badge from "../../../ui/Badge.svelte";
  import Button from "../../../ui/Button.svelte";
  import Words from "./Words.svelte";
  import { KEYS, nameOf } from "./names";

  /** What a machine suggests for the sentence at hand, where there is one and nothing stands there yet. It is asked once a sentence. */
  let {
    line,
    job,
    target,
    onUse,
  }: { line: SegmentLine; job: string; target: string; onUse: (target: string) => void } = $props();
  const found = createQuery(() => ({
    queryKey: ["suggestion", job, nameOf(line), line.source],
    queryFn: () => {
      const { entry, key, segment } = line;
      const params = { path: { id: job } };
      return sure(api.POST("/api/jobs/{id}/segments/suggest", { params, body: { entry, key, segment } }));
    },
    enabled: !!session.setup?.machine && !line.target,
    staleTime: Infinity,
    retry: false,
  }));
  const why = $derived(found.error instanceof Problem ? found.error.message : "");

  function onKey(event: KeyboardEvent): void {
    if (!event.altKey || event.ctrlKey || event.metaKey || event.code !== "KeyM" || !found.data?.text) return;
    event.preventDefault();
    onUse(found.data.text);
  }
</script>

<svelte:window onkeydown={onKey} />
{#if found.data?.text}
  <div class="flex gap-2 border-t pt-2 text-sm">
    <span class="shrink-0"><Badge tone="straw">{t("table.machine")}</Badge></span>
    <p class="min-w-0 flex-1" lang={target} dir="auto">
      <Words sentence={found.data.text} tags={line.tags} />
    </p>
    <Button
      class="self-start px-2 py-0.5 text-sm"
      title={t("table.withKey", { key: KEYS.machine })}
      onclick={() => onUse(found.data?.text ?? "")}
      >{t("table.use")}<span class="sr-only"> {t("table.machine")}</span></Button
    >
  </div>
{:else if why}<p class="text-sm text-moss">{why}</p>{/if}
