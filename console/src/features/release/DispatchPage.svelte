<script lang="ts">
  import "../../messages/release";
  import { elsewhere, lateness } from "./wall";
  import { useQueryClient } from "@tanstack/svelte-query";
  import QuietOverride, { quietIn } from "./QuietOverride.svelte";
  import CatchUpDialog from "./CatchUpDialog.svelte";
  import ChangingPages from "./ChangingPages.svelte";
  import DispatchComments from "../collaboration/DispatchComments.svelte";
  import DispatchActs from "./DispatchActs.svelte";
  import DispatchReview from "./DispatchReview.svelte";
  import GoesAlong from "./GoesAlong.svelte";
  import MoveList from "./MoveList.svelte";
  import Alert from "../../ui/Alert.svelte";
  import EventList from "../../ui/EventList.svelte";
  import Badge from "../../ui/Badge.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import EntryPicker from "../content/fields/EntryPicker.svelte";
  import { api, sure, type MoveLine, type Named } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { moveOf, strandOf, type MoveAsk } from "./ask";
  import { checkQuery, dispatchQuery, happenedQuery } from "./queries";
  import { isComing, offers, TONES } from "./states";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate, route } from "../../router";

  const id = $derived((route.params as { id: string }).id);
  const found = dispatchQuery(() => id);
  const happened = happenedQuery(() => id);
  const queries = useQueryClient();
  let catching = $state<CatchUpDialog>();
  let override = $state(false);
  const coming = $derived(!!found.data && isComing(found.data) && found.data.count > 0);
  const check = checkQuery(
    () => id,
    () => override,
    () => coming,
  );
  /** What it would do, but for what only says that it is for others to let it go. */
  const checked = $derived(
    (check.data?.moves ?? []).map((move) => ({
      ...move,
      unmet: move.unmet.filter((u) => u.code !== "refused"),
    })),
  );
  const moves = $derived((coming && check.data && checked) || found.data?.moves || []);
  const inTheWay = $derived(coming ? checked.filter((move) => move.unmet.length) : []);
  const others = $derived(
    check.data?.moves.flatMap((move) => move.unmet).find((u) => u.code === "refused")?.who ?? [],
  );
  const params = $derived({ path: { id } });

  const put = (moves: MoveAsk[]) =>
    sure(api.POST("/api/dispatches/{id}/moves", { params, body: { moves, below: false } }));

  /** An entry is put in in the language in which it is met first. */
  async function find(one: Named): Promise<void> {
    const entry = await sure(api.GET("/api/entries/{id}", { params: { path: { id: one.id } } }));
    await put([moveOf(one.id, entry.locale)]);
  }

  async function drop(move: MoveLine): Promise<void> {
    const verb = move.verb === "restore" ? "release" : move.verb;
    const payload = move.to ? { stage: move.stage } : {};
    const again = moveOf(move.id, move.locale, { verb, follows: move.follows, payload });
    const body = { moves: [{ id: move.id, locale: move.locale }] };
    await done(() => sure(api.POST("/api/dispatches/{id}/moves/drop", { params, body })));
    // The value of a field that was set is on its strand, and not here to be given again.
    if (move.verb === "set") toasts.say(t("dispatch.dropped", { title: move.title }));
    else
      toasts.offer(
        t("dispatch.dropped", { title: move.title }),
        t("plan.unplan"),
        () => void done(() => put([again])),
      );
  }

  async function write(move: MoveLine): Promise<void> {
    const body = { id: move.id, locale: move.locale };
    await done(async () => {
      const made = await sure(api.POST("/api/dispatches/{id}/write", { params, body }));
      await navigate(strandOf(made) as "/");
    });
  }

  async function done(act: () => Promise<unknown>): Promise<void> {
    try {
      await act();
      await queries.invalidateQueries();
    } catch (error) {
      toasts.wrong(error);
    }
  }
</script>

<svelte:head><title>{found.data?.name ?? t("timetable.title")} – {t("app.name")}</title></svelte:head>
<p><a href="/timetable">{t("timetable.back")}</a></p>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting />
{:else}
  {@const one = found.data}
  <h1 class="text-2xl font-semibold">{one.name}</h1>
  <p class="flex flex-wrap items-center gap-x-2 pb-2 text-moss">
    <Badge tone={TONES[one.state] ?? "moss"}>{t(`timetable.state.${one.state}`)}</Badge>
    <span
      >{one.instant ? when(one.instant) : t("dispatch.noTime")}{elsewhere(one)
        ? ` (${elsewhere(one)})`
        : ""}</span
    >
    <span>· {t("dispatch.ownedBy", { owner: one.owner_name })}</span>
    {#if one.by !== one.owner_name}<span>· {t("timetable.by", { by: one.by })}</span>{/if}
    {#if one.partial}<span>· {t("dispatch.sendsTheRest")}</span>{/if}
    {#if one.override_quiet}<span>· {t("quiet.overridden")}</span>{/if}
    {#if lateness(one)}<span>· {lateness(one)}</span>{/if}
    {#if ["gone", "undone"].includes(one.state)}<a
        href="/api/dispatches/{id}/receipt"
        download="receipt-{id}.json"
        title={t("dispatch.receiptAbout")}>{t("dispatch.receipt")}</a
      >{/if}
  </p>
  {#if one.note}<p class="pb-3 whitespace-pre-line">{one.note}</p>{/if}
  {#if one.undoes}<p class="pb-3"><a href="/timetable/{one.undoes}">{t("dispatch.undoes")}</a></p>{/if}
  {#if one.undone_by}<p class="pb-3">
      <a href="/timetable/{one.undone_by}">{t("dispatch.undoneBy")}</a>
    </p>{/if}
  {#if one.held_back_from}<p class="pb-3">
      <a href="/timetable/{one.held_back_from}">{t("dispatch.heldBackFrom")}</a>
    </p>{/if}
  {#if one.held_back}<p class="pb-3">
      <a href="/timetable/{one.held_back}">{t("dispatch.wasHeldBack")}</a>
    </p>{/if}
  <DispatchActs {one} blocked={inTheWay.length > 0} restGoes={check.data?.rest_goes ?? false} bind:override />
  {#if one.trouble && one.state === "planned"}
    <div class="pb-3"><Alert kind="wrong">{t("timetable.trouble", { trouble: one.trouble })}</Alert></div>
  {/if}
  {#if one.state === "failed"}
    {#each one.held as held, n (n)}
      <div class="pb-3">
        <Alert kind="wrong">{held.unmet.map((u) => u.what).join(" ")}</Alert>
      </div>
    {/each}
  {/if}
  {#if check.error && coming}<Trouble error={check.error} again={() => check.refetch()} />{/if}
  {#if coming}<DispatchReview {one} moves={checked} {done} />{/if}
  {#if inTheWay.length}
    <section class="sheet mb-3 border-s-4 border-s-straw p-4" aria-labelledby="in-the-way">
      <h2 id="in-the-way" class="pb-2 text-lg font-semibold">{t("dispatch.inTheWay")}</h2>
      <MoveList moves={inTheWay} onCatchUp={one.state === "open" ? catching?.begin : undefined} />
      <CatchUpDialog bind:this={catching} onDone={() => queries.invalidateQueries()} />
      {#if check.data?.rest_goes}<p class="pt-3">{t("dispatch.restGoes")}</p>{/if}
      {#if quietIn(inTheWay)}<div class="pt-3"><QuietOverride quiet bind:override /></div>{/if}
    </section>
  {:else if coming && check.data}
    {#if one.state === "held"}
      <p class="text-moss">{t("dispatch.wasHeld")}</p>
      <ul class="list-disc ps-5 pb-2 text-moss">
        {#each one.held as held, n (n)}
          <li>
            {held.title || t("list.untitled")} ({held.locale === "*" ? t("plan.shared") : held.locale}): {held.unmet
              .map((u) => u.what)
              .join(" ")}
          </li>
        {/each}
      </ul>
    {/if}
    <p class="pb-3 text-moss" role="status">
      {t(one.state === "held" ? "dispatch.clearByNow" : "plan.clear")}
    </p>
  {/if}
  {#if coming && others.length}<p class="pb-3 text-moss">
      {t("dispatch.forOthers", { who: others.join(", ") })}
    </p>{/if}
  {#if check.data && one.state === "open"}
    <GoesAlong check={check.data} put={(some) => done(() => put(some))} />
  {/if}
  {#each check.data?.also ?? [] as other, n (n)}
    <p class="pb-2 text-straw">
      {t("dispatch.also", { title: other.title, locale: other.locale })}
      <a href="/timetable/{other.dispatch}">{other.name}</a>, {when(other.instant)}
    </p>
  {/each}
  {#each check.data?.warnings ?? [] as warning, n (n)}<p class="pb-2 text-straw">{warning}</p>{/each}
  <section class="sheet p-4" aria-labelledby="goes">
    <h2 id="goes" class="pb-2 text-lg font-semibold">
      {t(one.state === "gone" ? "dispatch.went" : "plan.goes")}
    </h2>
    {#if moves.length}
      <MoveList
        {moves}
        plain={inTheWay.length > 0}
        inside={one.state === "gone" || one.state === "undone" ? "" : one.id}
        onDrop={offers(one, "change") ? drop : undefined}
        onWrite={offers(one, "change") ? write : undefined}
      />
      {#if one.count > moves.length}<p class="pt-2 text-moss">
          {t("dispatch.andMore", { count: one.count - moves.length })}
        </p>{/if}
    {:else}
      <p class="text-moss">{t("dispatch.empty")}</p>
    {/if}
    {#if coming && check.data}<ChangingPages check={check.data} inside={one.id} />{/if}
    {#if offers(one, "change")}
      <div class="max-w-md pt-4">
        <EntryPicker label={t("dispatch.put")} onChoose={(one) => done(() => find(one))} />
      </div>
    {/if}
  </section>
  <section class="pt-5" aria-labelledby="comments">
    <h2 id="comments" class="pb-2 text-lg font-semibold">{t("comments.title")}</h2>
    <DispatchComments {id} />
  </section>
  {#if happened.data?.items.length}
    <section class="pt-5" aria-labelledby="happened">
      <h2 id="happened" class="pb-2 text-lg font-semibold">{t("history.events")}</h2>
      <EventList events={happened.data.items} />
    </section>
  {/if}
{/if}
