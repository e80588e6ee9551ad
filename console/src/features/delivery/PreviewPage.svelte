<script lang="ts">
  import { onDestroy } from "svelte";
  import DeviceWidths from "./DeviceWidths.svelte";
  import PreviewFrame from "./PreviewFrame.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { t } from "../../lib/i18n";
  import { entryQuery } from "../content/queries";
  import { dispatchQuery } from "../release/queries";
  import { live } from "../../lib/state/live.svelte";
  import { Preview } from "../../lib/state/preview.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { navigate, route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Select from "../../ui/Select.svelte";
  import DateField from "../../ui/DateField.svelte";

  const params = $derived(route.params as { id: string; locale: string });
  const entry = entryQuery(
    () => params.id,
    () => params.locale,
  );
  let width = $state(1280);
  let marks = $state(false);
  const asked = new URLSearchParams(location.search);
  let two = $state(asked.has("beside"));

  /** One side: what stands where, in which locale. */
  interface Side {
    stage: string;
    at: string;
    strand: string;
    dispatch: string;
    locale: string;
    preview: Preview;
  }
  function side(stage: string, at: string, strand: string, dispatch = ""): Side {
    return { stage, at, strand, dispatch, locale: "", preview: new Preview() };
  }
  let left = $state(
    side(
      asked.get("stage") ?? (asked.has("beside") ? "release" : "draft"),
      asked.get("at") ?? "",
      asked.get("strand") ?? "",
      asked.get("dispatch") ?? "",
    ),
  );
  let right = $state(side(asked.get("beside") || "draft", asked.get("beside-at") ?? "", ""));
  const sides = $derived(two ? [left, right] : [left]);
  const locales = $derived(entry.data?.locales.filter((one) => one.exists) ?? []);
  const stages = $derived(entry.data?.rail.map((bead) => ({ name: bead.stage, label: bead.label })) ?? []);
  /** The dispatches that can be looked at as if they had gone: the one that was asked for, and those in which it is written. */
  const asking = new URLSearchParams(location.search).get("dispatch") ?? "";
  const named = dispatchQuery(
    () => asking,
    () => !!asking,
  );
  const inside = $derived([
    ...(named.data ? [{ id: named.data.id, name: named.data.name }] : []),
    ...(entry.data?.strands ?? [])
      .filter((one) => one.open && one.dispatch && one.dispatch !== asking)
      .map((one) => ({ id: one.dispatch!, name: one.dispatch_name })),
  ]);
  const strands = $derived(entry.data?.strands.filter((one) => one.open) ?? []);

  // What is looked at opens a preview of its own; nothing else does, so the page keeps its place when something is saved.
  $effect(() => watch(left));
  $effect(() => (two ? watch(right) : undefined));
  function watch(one: Side): void {
    const at = one.at && !one.dispatch ? new Date(one.at).toISOString() : "";
    void one.preview.open(params.id, one.locale || params.locale, {
      stage: one.stage,
      at,
      strand: one.strand,
      dispatch: one.dispatch,
    });
    one.preview.onChosen = (mark) => {
      const [id, path] = mark.split("/");
      void navigate("/entries/:id/:locale", {
        params: { id: id!, locale: one.locale || params.locale },
        search: path ? { field: path } : {},
      });
    };
    one.preview.onScrolled = (part) => {
      if (two) (one === left ? right : left).preview.tell({ kind: "scroll", part });
    };
  }
  $effect(() =>
    live.onEvent(() => {
      for (const one of sides) one.preview.changed();
    }),
  );
  onDestroy(() => {
    left.preview.close();
    right.preview.close();
  });

  function address(one: Side) {
    return one.preview.addresses.find((found) => found.stage !== "release");
  }

  function choose(one: Side, value: string): void {
    const strand = value.startsWith("strand:") ? value.slice(7) : "";
    one.strand = strand;
    one.dispatch = value.startsWith("dispatch:") ? value.slice(9) : "";
    one.stage = strand || one.dispatch ? "draft" : value;
  }

  function walked(one: Side): string {
    const id = one.preview.page.split("/")[0];
    return id && id !== params.id ? id : "";
  }
</script>

<svelte:head><title>{t("preview.title")} – {t("app.name")}</title></svelte:head>
{#if entry.error && !entry.data}
  <Trouble error={entry.error} again={() => entry.refetch()} />
{:else if !entry.data}
  <Waiting lines={8} />
{:else}
  <div class="flex flex-wrap items-center gap-x-4 gap-y-2 pb-3">
    <h1 class="text-xl font-semibold" lang={params.locale} dir="auto">
      {t("preview.of", { title: entry.data.title || t("list.untitled") })}
    </h1>
    <Button href="/entries/{params.id}/{params.locale}">{t("preview.back")}</Button>
    <span class="ms-auto flex flex-wrap items-center gap-3">
      <DeviceWidths bind:width />
      <label class="flex items-center gap-1.5"><Checkbox bind:checked={marks} />{t("preview.marks")}</label>
      <label class="flex items-center gap-1.5"><Checkbox bind:checked={two} />{t("preview.two")}</label>
    </span>
  </div>
  <div class="grid gap-4 {two ? 'lg:grid-cols-2' : ''}">
    {#each sides as one, n (n)}
      {@const seen = address(one)}
      <section
        class="flex min-w-0 flex-col gap-2"
        aria-label={t(two ? `preview.side${n + 1}` : "preview.title")}
      >
        <div class="flex flex-wrap items-end gap-2">
          <label class="flex flex-col text-sm"
            >{t("preview.what")}
            <Select
              class="w-auto!"
              value={one.dispatch
                ? `dispatch:${one.dispatch}`
                : one.strand
                  ? `strand:${one.strand}`
                  : one.stage}
              onchange={(event) => choose(one, event.currentTarget.value)}
            >
              {#each stages as stage (stage.name)}<option value={stage.name}
                  >{stage.name === "release" ? t("preview.outNow") : stage.label}</option
                >{/each}
              {#each strands as strand (strand.name)}<option value="strand:{strand.name}"
                  >{t("compare.strand", { name: strand.name })}</option
                >{/each}
              {#each inside as dispatch (dispatch.id)}<option value="dispatch:{dispatch.id}"
                  >{t("preview.dispatch", { name: dispatch.name })}</option
                >{/each}
            </Select></label
          >
          {#if !one.dispatch}<DateField
              time
              class="text-sm"
              label={t("preview.at")}
              bind:value={one.at}
            />{/if}
          {#if locales.length > 1}
            <label class="flex flex-col text-sm"
              >{t("preview.locale")}
              <Select class="w-auto!" bind:value={one.locale}>
                <option value="">{session.locale(params.locale)?.name}</option>
                {#each locales.filter((other) => other.locale !== params.locale) as other (other.locale)}
                  <option value={other.locale}>{other.name}</option>{/each}
              </Select></label
            >
          {/if}
          {#if one.at}<Button onclick={() => (one.at = "")}>{t("preview.now")}</Button>{/if}
        </div>
        {#if one.at}<p class="rounded bg-wash px-3 py-1 text-slate" role="status">
            {t("preview.then", { when: new Date(one.at).toLocaleString() })}
          </p>{/if}
        {#if one.preview.error}
          <Trouble error={one.preview.error} />
        {:else if seen && seen.missing.length}
          <p class="sheet px-3 py-2">{t("preview.missing", { names: seen.missing.join(", ") })}</p>
        {:else if seen}
          {#key seen.url}<PreviewFrame
              preview={one.preview}
              address={seen.url}
              {width}
              title={t("preview.frame")}
              {marks}
            />{/key}
          {#if walked(one)}<p>
              {t("preview.walked", { title: one.preview.title })}
              <a href="/entries/{walked(one)}/{one.preview.page.split('/')[1] ?? params.locale}"
                >{t("preview.edit")}</a
              >
            </p>{/if}
        {:else if one.preview.addresses.length || session.setup?.sites.length === 0}
          <p class="sheet px-3 py-2">{t("preview.noSite")}</p>
        {:else}
          <Waiting lines={8} />
        {/if}
      </section>
    {/each}
  </div>
{/if}
