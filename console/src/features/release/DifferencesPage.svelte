<script lang="ts">
  import "../../messages/release";
  import { searchParams } from "sv-router";
  import { later, instantIn, todayIn, wallIn } from "../../lib/days";
  import { t, when } from "../../lib/i18n";
  import { grouped } from "../../lib/lists";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import DateField from "../../ui/DateField.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { differencesQuery } from "./timetable";

  /** What readers see differently at two instants: each page with what changes, to be looked at word by word. */
  const zone = session.me?.zone;
  const now = wallIn(zone, new Date());
  const named = String(searchParams.get("until") ?? "");
  const then = named ? wallIn(zone, new Date(named)) : "";
  const past = !!then && then < now;
  // Of a time that is past: what has become different since.
  let since = $state(past ? then : now);
  let until = $state(past ? now : then || `${later(todayIn(zone), { days: 7 })}T${now.slice(11)}`);
  const instant = (wall: string) => (wall ? instantIn(zone, wall).toISOString() : "");
  const found = differencesQuery(
    // The minute that is shown began before now.
    () => (since === now ? "" : instant(since)),
    () => instant(until),
  );
  const items = $derived(found.data?.pages.flatMap((one) => one.items) ?? []);
  const groups = $derived(grouped(items, (one) => one.how));
  const HOWS = ["new", "changed", "gone"] as const;
</script>

<svelte:head><title>{t("differences.title")} – {t("app.name")}</title></svelte:head>
<p><a href="/timetable">{t("timetable.back")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("differences.title")}</h1>
<p class="max-w-3xl pb-4 text-moss">{t("differences.about")}</p>
<div class="flex flex-wrap gap-4 pb-4">
  <DateField time {zone} label={t("differences.since")} bind:value={since} />
  <DateField time {zone} label={t("differences.until")} bind:value={until} />
</div>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting lines={4} />
{:else if !items.length}
  <p class="text-moss" role="status">
    {t("differences.none", { since: when(instant(since)), until: when(instant(until)) })}
  </p>
{:else}
  {#each HOWS.filter((how) => groups.has(how)) as how (how)}
    <section class="pb-6" aria-labelledby="how-{how}">
      <h2 id="how-{how}" class="pb-2 text-lg font-semibold">{t(`differences.${how}`)}</h2>
      <ul class="flex flex-col gap-2">
        {#each groups.get(how)! as one (one.id + one.locale)}
          {@const locale = one.locale === "*" ? one.source_locale : one.locale}
          <li class="sheet flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 py-3">
            <a class="font-serif text-lg font-semibold" href="/entries/{one.id}/{locale}" lang={locale}
              >{one.title || t("list.untitled")}</a
            >
            <span class="text-sm text-moss"
              >{one.locale === "*" ? t("plan.shared") : one.locale}{one.path_after || one.path_before
                ? ` · ${one.path_after || one.path_before}`
                : ""}</span
            >
            {#if one.before && one.after && one.locale !== "*"}
              <a
                class="text-sm underline"
                href="/entries/{one.id}/{locale}/compare?before={one.before}&after={one.after}"
                >{t("differences.compare", { before: one.before, after: one.after })}<span class="sr-only">
                  {one.title}</span
                ></a
              >
            {/if}
            {#if one.dispatches[0]}<a class="text-sm underline" href="/timetable/{one.dispatches[0]}"
                >{t("differences.dispatch")}<span class="sr-only"> {one.title}</span></a
              >{/if}
          </li>
        {/each}
      </ul>
    </section>
  {/each}
  {#if found.hasNextPage}
    <Button busy={found.isFetchingNextPage} onclick={() => found.fetchNextPage()}>{t("list.more")}</Button>
  {/if}
{/if}
