<script lang="ts">
  import { api, sure, type Entry } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Popover from "../../ui/Popover.svelte";

  interface Props {
    entry: Entry;
    mayWrite: boolean;
    onChange: () => void;
  }
  let { entry, mayWrite, onChange }: Props = $props();
  let forking = $state(false);
  const open = $derived(entry.strands.filter((one) => one.open));
  const ended = $derived(entry.strands.filter((one) => !one.open));
  const base = $derived(`/entries/${entry.id}/${entry.locale}`);
  const beside = $derived(entry.strand !== "draft");
  /** The strand itself: one that belongs to a dispatch goes out with that. */
  const goesWith = $derived(open.find((one) => one.name === entry.strand));

  function to(strand: string): string {
    return strand === "draft" ? base : `${base}/strands/${encodeURIComponent(strand)}`;
  }

  async function forked(strand: string): Promise<void> {
    onChange();
    await navigate(to(strand) as "/");
  }

  async function end(strand: string, again: boolean): Promise<void> {
    const params = { path: { id: entry.id, locale: entry.locale, name: strand } };
    try {
      if (again) {
        await sure(api.POST("/api/entries/{id}/{locale}/strands/{name}/reopen", { params }));
        onChange();
        await navigate(to(strand) as "/");
      } else {
        await sure(api.POST("/api/entries/{id}/{locale}/strands/{name}/drop", { params }));
        toasts.say(t("strands.dropped", { name: strand }));
        onChange();
        await navigate(base as "/");
      }
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

{#if entry.exists}
  <nav
    aria-label={t("strands.label")}
    class="flex flex-wrap items-center gap-1 border-b py-1.5 text-sm {beside ? 'bg-wash px-2' : ''}"
  >
    {#if open.length || beside}
      {#each ["draft", ...open.map((one) => one.name)] as one (one)}
        <a
          href={to(one)}
          aria-current={one === entry.strand ? "page" : undefined}
          class="rounded px-2 py-1 {one === entry.strand ? 'bg-sheet font-semibold' : ''}"
          >{one === "draft" ? t("strands.draft") : one}</a
        >
      {/each}
    {/if}
    {#if mayWrite}
      <Button look="quiet" class="px-2 py-1 text-hedge" onclick={() => (forking = true)}
        >{open.length ? t("strands.another") : t("strands.fork")}</Button
      >
    {/if}
    {#if ended.length}
      <Popover
        title={t("strands.ended", { count: ended.length })}
        look="quiet"
        align="start"
        class="text-moss"
        within="w-80"
      >
        <ul>
          {#each ended as one (one.name + one.ended_at)}
            <li class="flex items-center gap-2 py-1">
              <span class="min-w-0 flex-1"
                ><span class="font-semibold">{one.name}</span><br /><span class="text-moss"
                  >{t(`strands.how_${one.ended === "dropped" ? "dropped" : "in"}`)}, {when(
                    one.ended_at ?? "",
                  )}</span
                ></span
              >
              {#if mayWrite}<Button onclick={() => end(one.name, true)}>{t("strands.reopen")}</Button>{/if}
            </li>
          {/each}
        </ul>
      </Popover>
    {/if}
    {#if beside}
      <span class="ms-auto flex flex-wrap items-center gap-2">
        {#if goesWith?.dispatch}
          <Button look="main" href="/timetable/{goesWith.dispatch}"
            >{t("strands.goesWith", { name: goesWith.dispatch_name })}</Button
          >
          <Button href="{to(entry.strand)}/proposal">{t("strands.settle")}</Button>
        {:else}
          <Button look="main" href="{to(entry.strand)}/proposal">{t("strands.propose")}</Button>
          {#if mayWrite}<Button onclick={() => end(entry.strand, false)}>{t("strands.drop")}</Button>{/if}
        {/if}
      </span>
    {/if}
  </nav>
{/if}

{#if forking}
  {#await import("./ForkDialog.svelte") then { default: ForkDialog }}
    <ForkDialog {entry} onClose={() => (forking = false)} onDone={forked} />
  {/await}
{/if}
