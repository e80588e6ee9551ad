<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import ConflictPanel from "./ConflictPanel.svelte";
  import Diff from "./Diff.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, Problem, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { entryQuery, proposalQuery } from "./queries";
  import type { Decisions } from "../../lib/state/editor.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate, route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";

  const params = $derived(route.params as { id: string; locale: string; name: string });
  const name = $derived(decodeURIComponent(params.name ?? ""));
  const base = $derived(`/entries/${params.id}/${params.locale}`);
  let left = $state<string[]>([]);
  let partly = $state(false);
  let decisions = $state.raw<Decisions>({});
  let note = $state("");
  let busy = $state(false);
  let error = $state<unknown>(null);
  /** The mark of what was shown and is not so any more: nothing is merged by it again. */
  let refused = $state("");
  const queries = useQueryClient();
  const entry = entryQuery(
    () => params.id,
    () => params.locale,
    () => name,
  );
  const whole = proposalQuery(
    () => ({ id: params.id, locale: params.locale, name }),
    () => ({ take: null, decisions: {}, note: "" }),
    () => !busy,
  );
  const places = $derived(whole.data?.places ?? []);
  const take = $derived(partly ? places.map((one) => one.place).filter((one) => !covered(one)) : null);
  const found = proposalQuery(
    () => ({ id: params.id, locale: params.locale, name }),
    () => ({ take, decisions, note: "" }),
    // What may be taken follows from the whole, which others may be changing.
    () => !busy && !whole.isFetching,
  );
  const open = $derived(
    (found.data?.conflicts ?? []).filter((one) => found.data?.still_open.includes(one.place)),
  );

  /** A field that holds blocks is taken whole only when all of it is; else its blocks are. */
  function covered(place: string): boolean {
    if (left.includes(place)) return true;
    const inner = places.filter((one) => one.place.startsWith(`${place}:`));
    return inner.some((one) => left.includes(one.place)) || left.includes(place.split(":")[0]!);
  }

  function toggle(place: string, on: boolean): void {
    left = on ? left.filter((one) => one !== place) : [...left, place];
    partly = left.length > 0;
  }

  /** A strand that goes out with a dispatch comes in by itself then; what both changed is settled before. */
  const goesWith = $derived(entry.data?.strands.find((one) => one.open && one.name === name && one.dispatch));
  /** Whether what is shown is merged from here: of one that goes out with a dispatch, a part. */
  const takes = $derived(!goesWith || partly);
  async function keep(): Promise<void> {
    busy = true;
    error = null;
    const path = { id: params.id, locale: params.locale, name };
    try {
      await sure(
        api.POST("/api/entries/{id}/{locale}/strands/{name}/proposal/keep", {
          params: { path },
          body: { decisions },
        }),
      );
      toasts.say(t("proposal.kept"));
      await queries.invalidateQueries();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  async function accept(): Promise<void> {
    if (!found.data) return;
    busy = true;
    error = null;
    try {
      await sure(
        api.POST("/api/entries/{id}/{locale}/strands/{name}/proposal", {
          params: {
            path: { id: params.id, locale: params.locale, name },
            header: { "If-Match": found.data.etag },
          },
          body: { take, decisions, note },
        }),
      );
      toasts.say(t(take ? "proposal.taken" : "proposal.cameIn", { name }));
      await navigate(base as "/");
      await queries.invalidateQueries();
    } catch (caught) {
      error = caught;
      busy = false;
      if (caught instanceof Problem && caught.slug === "stale") {
        refused = found.data.etag;
        await queries.invalidateQueries();
      }
    }
  }
</script>

<svelte:head><title>{t("proposal.title", { name })} – {t("app.name")}</title></svelte:head>
<p class="text-sm">
  <a href={base}>{entry.data?.title || t("list.untitled")}</a> ·
  <a href="{base}/strands/{encodeURIComponent(name)}">{t("proposal.back")}</a>
</p>
<h1 class="pb-2 text-2xl font-semibold">{t("proposal.title", { name })}</h1>
{#if found.error && !found.data}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting lines={6} />
{:else}
  <p class="pb-4 text-moss">{t("proposal.about")}</p>
  <div class="grid gap-6 lg:grid-cols-[minmax(0,42rem)_minmax(17rem,1fr)]">
    <div class="flex min-w-0 flex-col gap-5">
      {#if open.length}
        {#key open.map((one) => one.place).join()}
          <ConflictPanel
            conflicts={open}
            names={(uuid) => entry.data?.references[uuid]?.title ?? uuid}
            {busy}
            side="strand"
            onSettle={(made) => (decisions = { ...decisions, ...made })}
          />
        {/key}
      {/if}
      <section aria-labelledby="comes-in">
        <h2 id="comes-in" class="pb-1 text-lg font-semibold">{t("proposal.comes")}</h2>
        {#each found.data.taken as field (field.field)}
          <h3 class="pt-2 font-semibold text-moss">{field.label}</h3>
          <Diff parts={field.parts} lang={params.locale} />
        {:else}
          <p class="text-moss">{t("proposal.nothing")}</p>
        {/each}
      </section>
      {#if found.data.left.length}
        <section aria-labelledby="left-out">
          <h2 id="left-out" class="pb-1 text-lg font-semibold">{t("proposal.left")}</h2>
          {#each found.data.left as field (field.field)}
            <h3 class="pt-2 font-semibold text-moss">{field.label}</h3>
            <Diff parts={field.parts} lang={params.locale} />
          {/each}
        </section>
      {/if}
    </div>
    <aside class="sheet flex h-fit flex-col gap-4 p-4" aria-label={t("proposal.take")}>
      <fieldset class="flex flex-col gap-1">
        <legend class="pb-1 font-semibold">{t("proposal.take")}</legend>
        {#each places as one (one.place)}
          <label class="flex items-start gap-2 {one.place.includes(':') ? 'ps-6' : ''}"
            ><Checkbox
              class="mt-1"
              checked={!left.includes(one.place) && !left.includes(one.place.split(":")[0]!)}
              disabled={one.place.includes(":") && left.includes(one.place.split(":")[0]!)}
              onchange={(event) => toggle(one.place, event.currentTarget.checked)}
            /><span>{one.label}{one.locale === "*" ? ` (${t("entry.sharedMark")})` : ""}</span></label
          >
        {/each}
      </fieldset>
      {#if takes}
        <p class="text-sm text-moss">{t(partly ? "proposal.partly" : "proposal.whole")}</p>
      {/if}
      <label class="flex flex-col gap-1">{t("entry.noteOptional")}<Input bind:value={note} /></label>
      {#if error}<Trouble {error} />{/if}
      {#if goesWith}
        <p class="text-sm">
          {t("proposal.goesWith")} <a href="/timetable/{goesWith.dispatch}">{goesWith.dispatch_name}</a>.
        </p>
        {#if Object.keys(decisions).length}
          <Button look="main" class="justify-center" disabled={busy} onclick={keep}
            >{t("proposal.keep")}</Button
          >
        {/if}
      {/if}
      {#if takes}
        <!-- While it is only looked up again it can be pressed: what is shown carries its mark, and is refused when it is not so any more.
          So can it with something in the way, which may be gone by now: the service looks once more. -->
        <Button
          look={goesWith || found.data.in_the_way ? "plain" : "main"}
          class="justify-center"
          disabled={busy ||
            found.isPlaceholderData ||
            found.data.etag === refused ||
            found.data.still_open.length > 0 ||
            !found.data.taken.length}
          onclick={accept}>{t(partly ? "proposal.acceptPart" : "proposal.accept")}</Button
        >
      {/if}
      {#if found.data.still_open.length}<p class="text-sm text-berry" role="status">
          {t("proposal.open", { count: found.data.still_open.length })}
        </p>{/if}
      {#if takes && !error && found.data.in_the_way}<p class="text-sm text-berry" role="status">
          {found.data.in_the_way}
        </p>{/if}
    </aside>
  </div>
{/if}
