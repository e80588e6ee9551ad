<script lang="ts">
  import "../../messages/release";
  import { elsewhere, lateness } from "./wall";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, once, sure, type Dispatch } from "../../lib/api";
  import { shownDay } from "../../lib/dates";
  import { later, todayIn } from "../../lib/days";
  import { day, t, when } from "../../lib/i18n";
  import { dispatchOf } from "./ask";
  import NarrowBar from "./NarrowBar.svelte";
  import { ALL, type Narrowing } from "./narrowing";
  import { dispatchesQuery, waitingQuery } from "./queries";
  import { duesQuery } from "./timetable";
  import { isComing, TONES } from "./states";
  import { Kept } from "../../lib/state/kept.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { navigate } from "../../router";
  import Badge from "../../ui/Badge.svelte";
  import Button from "../../ui/Button.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import CalendarMonthOutline from "flowbite-svelte-icons/CalendarMonthOutline.svelte";
  import PrinterOutline from "flowbite-svelte-icons/PrinterOutline.svelte";

  /** So many days back what has gone is shown. */
  let back = $state(60);
  const since = $derived(
    back > 3000 ? "" : new Date(Date.now() - back * 86_400_000).toISOString().slice(0, 10),
  );
  let narrowing = $state<Narrowing>({ ...ALL });
  const now = () => narrowing;
  const found = dispatchesQuery(
    () => since,
    () => "",
    now,
  );
  const open = waitingQuery("open", now);
  const held = waitingQuery("held", now);
  const failed = waitingQuery("failed", now);
  const today = todayIn(session.me?.zone);
  const dues = duesQuery(
    () => later(today, { days: -14 }),
    () => later(today, { days: 31 }),
    now,
  );
  const stuck = $derived([...(held.data?.items ?? []), ...(failed.data?.items ?? [])]);
  const planned = $derived(found.data?.items.filter((one) => one.state === "planned") ?? []);
  const past = $derived((found.data?.items.filter((one) => !isComing(one)) ?? []).reverse());
  const VIEWS = ["agenda", "day", "week", "month"] as const;
  const view = new Kept<(typeof VIEWS)[number]>("timetable", "agenda");
  let starting = $state(false);
  let subscribing = $state(false);
  let subscribed = $state(false);
  let name = $state("");
  let note = $state("");
  let error = $state<unknown>(null);

  async function start(): Promise<void> {
    error = null;
    try {
      const body = dispatchOf([], { name, note, open: true });
      const made = await sure(api.POST("/api/dispatches", { params: { header: once() }, body }));
      starting = false;
      await navigate("/timetable/:id", { params: { id: made.id } });
    } catch (caught) {
      error = caught;
    }
  }
</script>

{#snippet list(items: Dispatch[])}
  <ol class="flex flex-col gap-2">
    {#each items as one (one.id)}
      <li class="sheet flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 py-3">
        <span class="w-40 font-semibold text-moss"
          >{one.instant ? when(one.instant) : t("dispatch.noTime")}</span
        >
        <a class="font-serif text-lg font-semibold" href="/timetable/{one.id}">{one.name}</a>
        <Badge tone={TONES[one.state] ?? "moss"}>{t(`timetable.state.${one.state}`)}</Badge>
        <span class="text-sm text-moss"
          >{t("timetable.moves", { count: one.count })} · {one.owner_name}{elsewhere(one)
            ? ` · ${elsewhere(one)}`
            : ""}</span
        >
        {#if lateness(one)}<span class="text-sm text-straw">{lateness(one)}</span>{/if}
        {#each one.held.slice(0, 1) as first, n (n)}
          <span class="basis-full text-sm text-straw"
            >{first.title}: {first.unmet.map((u) => u.what).join(" ")}</span
          >
        {/each}
      </li>
    {/each}
  </ol>
{/snippet}

<svelte:head><title>{t("timetable.title")} – {t("app.name")}</title></svelte:head>
<div class="flex flex-wrap items-center gap-3 pb-4">
  <h1 class="text-2xl font-semibold">{t("timetable.title")}</h1>
  <Button
    class="ms-auto print:hidden"
    icon={CalendarMonthOutline}
    onclick={() => (subscribed = subscribing = true)}>{t("calendars.subscribe")}</Button
  >
  <Button class="print:hidden" href="/differences">{t("differences.open")}</Button>
  <Button class="print:hidden" icon={PrinterOutline} onclick={() => print()}>{t("timetable.print")}</Button>
  {#if session.may("write") || session.may("release")}
    <Button
      class="print:hidden"
      look="main"
      onclick={() => {
        name = note = "";
        error = null;
        starting = true;
      }}>{t("dispatch.start")}</Button
    >
  {/if}
</div>
<NarrowBar bind:narrowing />
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting />
{:else}
  {#if stuck.length}
    <section class="pb-6" aria-labelledby="stuck">
      <h2 id="stuck" class="pb-2 text-lg font-semibold">{t("dispatch.waits")}</h2>
      {@render list(stuck)}
    </section>
  {/if}
  {#if open.data?.items.length}
    <section class="pb-6" aria-labelledby="open">
      <h2 id="open" class="pb-2 text-lg font-semibold">{t("dispatch.open")}</h2>
      {@render list(open.data.items)}
    </section>
  {/if}
  <fieldset class="flex flex-wrap gap-2 pb-3 print:hidden">
    <legend class="sr-only">{t("timetable.shownAs")}</legend>
    {#each VIEWS as one (one)}
      <Button aria-pressed={view.value === one} onclick={() => (view.value = one)}
        >{t(`timetable.view_${one}`)}</Button
      >
    {/each}
  </fieldset>
  {#if view.value !== "agenda"}
    {#await import("./CalendarView.svelte") then { default: CalendarView }}<CalendarView
        span={view.value}
        {narrowing}
      />{/await}
  {:else}
    <section class="pb-6" aria-labelledby="planned">
      <h2 id="planned" class="pb-2 text-lg font-semibold">{t("timetable.planned")}</h2>
      {#if planned.length}{@render list(planned)}{:else}<p class="text-moss">{t("timetable.none")}</p>{/if}
    </section>
    {#if dues.data?.items.length}
      <section class="pb-6" aria-labelledby="due">
        <h2 id="due" class="pb-2 text-lg font-semibold">{t("timetable.due")}</h2>
        <ul class="flex flex-col gap-1">
          {#each dues.data.items as one (one.id)}
            <li class="flex flex-wrap gap-x-4">
              <span class={["w-40 font-semibold", one.day < today ? "text-straw" : "text-moss"]}
                >{shownDay(one.day)}</span
              >
              <span
                >{t(`timetable.due_${one.kind}`)}: <a class="underline" href={one.path}>{one.title}</a>
                <span class="text-sm text-moss">{one.locale}{one.person ? ` · ${one.person}` : ""}</span
                ></span
              >
            </li>
          {/each}
        </ul>
      </section>
    {/if}
    <section aria-labelledby="past">
      <h2 id="past" class="pb-2 text-lg font-semibold">{t("timetable.past")}</h2>
      {@render list(past)}
      {#if since}
        <p class="flex flex-wrap items-center gap-3 pt-3 text-moss">
          {t("timetable.since", { when: day(since) })}
          <Button onclick={() => (back *= 8)}>{t("timetable.earlier")}</Button>
        </p>
      {/if}
    </section>
  {/if}
{/if}

<FormDialog
  bind:open={starting}
  title={t("dispatch.startTitle")}
  go={t("dispatch.doStart")}
  {error}
  ready={name.trim() !== ""}
  onsubmit={start}
>
  <label class="flex flex-col gap-1"
    >{t("dispatch.name")}<Input bind:value={name} maxlength={120} required /></label
  >
  <label class="flex flex-col gap-1">{t("dispatch.note")}<Textarea rows={3} bind:value={note} /></label>
  <p class="text-sm text-moss">{t("dispatch.startAbout")}</p>
</FormDialog>

{#if subscribed}{#await import("./SubscribeDialog.svelte") then part}<part.default
      bind:open={subscribing}
      {narrowing}
    />{/await}{/if}
