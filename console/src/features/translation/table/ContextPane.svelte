<script lang="ts">
  import "../../../messages/translation";
  import { onDestroy, untrack } from "svelte";
  import type { SegmentLine } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { Preview } from "../../../lib/state/preview.svelte";
  import PreviewFrame from "../../delivery/PreviewFrame.svelte";
  import Button from "../../../ui/Button.svelte";
  import Trouble from "../../../ui/Trouble.svelte";
  import Waiting from "../../../ui/Waiting.svelte";
  import { wordsIn } from "./sentences";

  /** The page that a sentence is of, with the sentence marked; what is chosen in it is gone to in the table. */
  interface Props {
    line: SegmentLine;
    source: string;
    target: string;
    onChosen: (entry: string, path: string, words: string) => void;
  }
  let { line, source, target, onChosen }: Props = $props();
  const preview = new Preview();
  let side = $state<"source" | "target">("source");
  const locale = $derived(side === "source" ? source : target);
  const page = $derived(preview.addresses.find((one) => one.stage !== "release"));
  const at = $derived(`${line.entry} ${locale}`);

  $effect(() => {
    void at;
    const entry = untrack(() => line.entry);
    const language = untrack(() => locale);
    void preview.open(entry, language, { stage: "draft", at: "", strand: "" });
  });
  onDestroy(() => preview.close());
  preview.onChosen = (mark, words) => {
    const [entry = "", path = ""] = mark.split("/");
    onChosen(entry, path, words);
  };

  /** The mark on the page that shows a place, or what the place is a part of. */
  function markOf(key: string): string {
    const parts = key.split(".")[0]!.split(":");
    for (let n = parts.length; n > 0; n--) {
      const mark = `${line.entry}/${parts.slice(0, n).join(":")}`;
      if (preview.marks.some((one) => one.mark === mark)) return mark;
    }
    return "";
  }
  $effect(() => {
    if (!preview.joined) return;
    const words = wordsIn(side === "source" ? line.source : line.target);
    const mark = markOf(line.key);
    if (mark) preview.tell({ kind: "show", mark, words, first: true });
  });
</script>

<div class="flex flex-col gap-2">
  <div role="group" aria-label={t("table.context")} class="flex">
    <Button class="rounded-e-none!" aria-pressed={side === "source"} onclick={() => (side = "source")}
      >{t("jobs.source")}</Button
    >
    <Button class="rounded-s-none!" aria-pressed={side === "target"} onclick={() => (side = "target")}
      >{t("table.target")}</Button
    >
  </div>
  {#if preview.error}<Trouble error={preview.error} />
  {:else if page && !page.missing.length}
    {#key page.url}<PreviewFrame
        {preview}
        address={page.url}
        width={900}
        title={t("preview.frame")}
        marks
      />{/key}
  {:else if page}
    <p class="sheet px-3 py-2 text-moss">{t(side === "target" ? "table.notThere" : "preview.noSite")}</p>
  {:else if preview.addresses.length}<p class="sheet px-3 py-2 text-moss">{t("preview.noSite")}</p>
  {:else}<Waiting lines={6} />{/if}
</div>
