<script lang="ts">
  import { onDestroy, untrack } from "svelte";
  import DeviceWidths from "./DeviceWidths.svelte";
  import LinkDialog from "../content/LinkDialog.svelte";
  import PreviewFrame from "./PreviewFrame.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { live } from "../../lib/state/live.svelte";
  import type { Preview } from "../../lib/state/preview.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Select from "../../ui/Select.svelte";

  interface Props {
    preview: Preview;
    entry: Entry;
    typed: Record<string, unknown>;
  }
  let { preview, entry, typed }: Props = $props();
  let width = $state(1280);
  let marks = $state(true);
  let out = $state(false);
  let site = $state("");
  const drafts = $derived(preview.addresses.filter((one) => one.stage !== "release"));
  const lives = $derived(preview.addresses.filter((one) => one.stage === "release"));
  const choice = $derived(drafts.find((one) => one.site === site) ?? drafts[0]);
  const current = $derived(out ? lives[0] : choice);

  // Written inside a dispatch, it is seen as it will be with all of that gone.
  const dispatch = untrack(
    () => entry.strands.find((one) => one.open && one.name === entry.strand)?.dispatch ?? "",
  );
  const place = untrack(() => ({
    stage: entry.at ? "release" : "draft",
    at: entry.at ?? "",
    strand: dispatch || entry.at ? "" : entry.strand,
    dispatch: entry.at ? "" : dispatch,
  }));
  void untrack(() => preview.open(entry.id, entry.locale, place));
  onDestroy(() => preview.close());

  $effect(() => preview.type(entry.id, entry.locale, $state.snapshot(typed) as Record<string, unknown>));
  // What is saved changes the page, by whomever; a draft may get another address with it.
  let etag = untrack(() => entry.etag);
  $effect(() => {
    if (entry.etag === etag) return;
    etag = entry.etag;
    void untrack(() => preview.look(entry.id, entry.locale)).then(() => preview.changed());
  });
  $effect(() => live.onEvent(() => preview.changed()));
</script>

<div class="flex flex-col gap-2">
  <div class="flex flex-wrap items-center gap-2">
    <DeviceWidths bind:width />
    <div role="group" aria-label={t("preview.which")} class="flex">
      <Button class="rounded-e-none!" aria-pressed={!out} onclick={() => (out = false)}
        >{t("preview.drafted")}</Button
      >
      <Button
        class="rounded-s-none!"
        aria-pressed={out}
        disabled={!lives.length || lives[0]!.missing.length > 0}
        title={lives[0]?.missing.length ? t("preview.notOut") : undefined}
        onclick={() => (out = true)}>{t("preview.out")}</Button
      >
    </div>
    {#if !out}
      <label class="flex items-center gap-1.5"><Checkbox bind:checked={marks} />{t("preview.marks")}</label>
    {/if}
    {#if drafts.length > 1 && !out}
      <label class="flex items-center gap-1.5"
        ><span class="sr-only">{t("preview.site")}</span>
        <Select class="w-auto!" value={choice?.site} onchange={(event) => (site = event.currentTarget.value)}>
          {#each drafts as one (one.site)}<option value={one.site}>{one.label}</option>{/each}
        </Select></label
      >
    {/if}
  </div>
  {#if preview.error}
    <Trouble error={preview.error} />
  {:else if current?.missing.length}
    <p class="sheet px-3 py-2">{t("preview.missing", { names: current.missing.join(", ") })}</p>
  {:else if current}
    <PreviewFrame {preview} address={current.url} {width} title={t("preview.frame")} marks={marks && !out} />
    <p class="text-sm text-moss">
      {#if preview.joined}{t("preview.joined")}{:else}{t("preview.notJoined")}{/if}
      {#each preview.problems as one (one.field)}
        <span class="font-semibold text-straw">{one.field}: {one.problem}</span>{/each}
    </p>
  {:else if preview.addresses.length || session.setup?.sites.length === 0}
    <p class="sheet px-3 py-2">
      {t("preview.noSite")}
      {#if session.may("configure")}<a href="/set-up/sites">{t("preview.setUp")}</a>{/if}
    </p>
  {:else}
    <Waiting lines={6} />
  {/if}
  <div class="flex flex-wrap gap-2">
    {#if current && !current.missing.length}
      <Button href={current.url} target="_blank" rel="noreferrer">{t("preview.tab")}</Button>
    {/if}
    <Button href="/preview/{entry.id}/{entry.locale}">{t("preview.larger")}</Button>
    <LinkDialog {entry} />
  </div>
</div>
