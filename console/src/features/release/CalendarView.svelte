<script lang="ts">
  import "../../messages/release";
  import type { Dispatch } from "../../lib/api";
  import { shownDay, weekOf, weeksOf } from "../../lib/dates";
  import { instantIn, later, todayIn, wallIn } from "../../lib/days";
  import { t } from "../../lib/i18n";
  import { grouped } from "../../lib/lists";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Table from "../../ui/Table.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import ChevronLeftOutline from "flowbite-svelte-icons/ChevronLeftOutline.svelte";
  import ChevronRightOutline from "flowbite-svelte-icons/ChevronRightOutline.svelte";
  import MoveToDay from "./MoveToDay.svelte";
  import { offers } from "./states";
  import type { Narrowing } from "./narrowing";
  import { dispatchesQuery } from "./queries";
  import { duesQuery, quietSpansQuery } from "./timetable";

  /**
   * A month, a week or a day of the timetable in the viewer's zone. What is planned is moved to another day by dragging, or with Alt and the arrows; it
   * keeps its time of day. What that would do is shown before it is done.
   */
  let { span, narrowing }: { span: "month" | "week" | "day"; narrowing: Narrowing } = $props();
  const zone = session.me?.zone;
  const today = todayIn(zone);
  /** A day of what is shown. */
  let at = $state(today);
  const month = $derived(at.slice(0, 7));
  const weeks = $derived(span === "month" ? weeksOf(at) : span === "week" ? [weekOf(at)] : [[at]]);
  const first = $derived(weeks[0]![0]!);
  const after = $derived(later(weeks.at(-1)!.at(-1)!, { days: 1 }));
  const title = $derived(
    span === "month"
      ? shownDay(`${month}-01`, { month: "long", year: "numeric" })
      : span === "week"
        ? t("timetable.weekOf", { from: shownDay(first), to: shownDay(weeks[0]![6]!) })
        : shownDay(at),
  );
  const since = () => instantIn(zone, first).toISOString();
  const until = () => instantIn(zone, after).toISOString();
  const found = dispatchesQuery(since, until, () => narrowing);
  const dues = duesQuery(
    () => first,
    () => after,
    () => narrowing,
  );
  const dueOn = $derived(grouped(dues.data?.items ?? [], (one) => one.day));
  const quiet = quietSpansQuery(since, until);
  /** The quiet times of each day, as they are read. */
  const quietOn = $derived.by(() => {
    const out: Record<string, { id: string; says: string; reason: string }[]> = {};
    for (const one of quiet.data?.items ?? []) {
      const [from, to] = [one.since, one.until].map((at) => wallIn(zone, new Date(at)));
      // What ends with the first moment of a day is not of that day.
      for (let day = from!.slice(0, 10); `${day}T00:00` < to!; day = later(day, { days: 1 })) {
        const begins = day === from!.slice(0, 10) ? from!.slice(11) : "00:00";
        const ends = day === to!.slice(0, 10) ? to!.slice(11) : "24:00";
        (out[day] ??= []).push({
          id: one.id + one.since,
          says: t("quiet.hours", { begins, ends }),
          reason: one.reason,
        });
      }
    }
    return out;
  });
  const byDay = $derived.by(() => {
    const out: Record<string, Dispatch[]> = {};
    for (const one of found.data?.items ?? [])
      if (one.instant && one.state !== "cancelled") (out[wall(one).slice(0, 10)] ??= []).push(one);
    return out;
  });
  const LOOKS: Record<string, string> = {
    planned: "border-slate text-slate",
    held: "border-straw text-straw",
    failed: "border-straw text-straw",
    open: "border-edge text-moss",
    gone: "border-hedge text-hedge",
  };
  /** So many stand in a day before the others are behind its number. */
  const MOST = $derived(span === "month" ? 4 : 200);
  /** So many at one hour are a crowd. */
  const CROWD = 3;
  function crowds(here: Dispatch[]): string[] {
    const hours = grouped(
      here.filter((one) => one.state === "planned"),
      (one) => time(one).slice(0, 2),
    );
    return [...hours].filter(([, all]) => all.length >= CROWD).map(([hour]) => `${hour}:00`);
  }
  let all = $state("");
  let dragged = $state<Dispatch | null>(null);
  let over = $state("");
  let moving = $state<{ one: Dispatch; day: string } | null>(null);
  const movable = (one: Dispatch) => offers(one, "replan");
  const wall = (one: Dispatch) => wallIn(zone, new Date(one.instant!));
  const time = (one: Dispatch) => wall(one).slice(11);

  function ask(one: Dispatch | null, day: string): void {
    dragged = null;
    over = "";
    if (!one?.instant || wall(one).slice(0, 10) === day) return;
    moving = { one, day };
  }

  const STEPS: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -7, ArrowDown: 7 };
  function onkeydown(event: KeyboardEvent, one: Dispatch, day: string): void {
    const by = event.altKey ? STEPS[event.key] : undefined;
    if (!by || !movable(one)) return;
    event.preventDefault();
    ask(one, later(day, { days: by }));
  }

  function go(by: number): void {
    const step = { month: { months: by }, week: { days: 7 * by }, day: { days: by } }[span];
    at = by ? later(span === "month" ? `${month}-01` : at, step) : today;
  }
</script>

<div class="flex flex-wrap items-center gap-2 pb-3 print:hidden">
  <Button
    look="quiet"
    icon={ChevronLeftOutline}
    class="rtl:-scale-x-100"
    label={t(`timetable.before_${span}`)}
    onclick={() => go(-1)}
  />
  <h2 class="min-w-44 text-center text-lg font-semibold" aria-live="polite">
    {title}
  </h2>
  <Button
    look="quiet"
    icon={ChevronRightOutline}
    class="rtl:-scale-x-100"
    label={t(`timetable.after_${span}`)}
    onclick={() => go(1)}
  />
  <Button onclick={() => go(0)}>{t("timetable.today")}</Button>
</div>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting lines={8} />
{:else}
  <Table aria-label={title} class={span === "day" ? "" : "min-w-[42rem] table-fixed"}>
    <thead>
      <tr>
        {#each weeks[0] as day (day)}
          <th scope="col" class="px-2 py-1 text-start text-sm font-semibold text-moss"
            >{shownDay(day, { weekday: span === "day" ? "long" : "short" })}</th
          >
        {/each}
      </tr>
    </thead>
    <tbody>
      {#each weeks as week (week[0])}
        <tr>
          {#each week as day (day)}
            {@const here = byDay[day] ?? []}
            <td
              class={[
                "border p-1 align-top",
                span === "month" ? "h-24" : "h-72",
                span !== "month" || day.startsWith(month) ? "bg-sheet" : "bg-wash",
                quietOn[day] && "hatched",
                over === day && "outline-2 outline-slate",
              ]}
              ondragover={(event) => {
                if (!dragged) return;
                event.preventDefault();
                over = day;
              }}
              ondragleave={() => (over = "")}
              ondrop={() => ask(dragged, day)}
            >
              <p class="px-1 text-sm {day === today ? 'font-bold text-hedge' : 'text-moss'}">
                <span class="sr-only">{shownDay(day)}</span><span aria-hidden="true"
                  >{Number(day.slice(8))}</span
                >
                {#if day === today}<span class="text-xs">{t("timetable.isToday")}</span>{/if}
              </p>
              {#each crowds(here) as hour (hour)}
                <p class="px-1 text-xs font-semibold text-straw">{t("timetable.crowded", { hour })}</p>
              {/each}
              {#each quietOn[day] ?? [] as one (one.id)}
                <p class="truncate rounded bg-paper px-1 text-xs text-moss" title="{one.says}: {one.reason}">
                  {one.says}<span class="sr-only">: {one.reason}</span>
                </p>
              {/each}
              <ul class="flex flex-col gap-1">
                {#each here.slice(0, all === day ? undefined : MOST) as one (one.id)}
                  <li>
                    <a
                      href="/timetable/{one.id}"
                      class="{span === 'month'
                        ? 'truncate'
                        : ''} block rounded border-s-4 bg-paper px-1.5 py-0.5 text-sm no-underline {LOOKS[
                        one.state
                      ] ?? 'border-edge text-moss'}"
                      title={`${time(one)} ${one.name} (${t(`timetable.state.${one.state}`)})`}
                      draggable={movable(one)}
                      ondragstart={() => (dragged = one)}
                      ondragend={() => (dragged = null)}
                      onkeydown={(event) => onkeydown(event, one, day)}
                      aria-keyshortcuts={movable(one)
                        ? "Alt+ArrowLeft Alt+ArrowRight Alt+ArrowUp Alt+ArrowDown"
                        : undefined}
                      >{time(one)} <span class="font-semibold">{one.name}</span>
                      <span class="sr-only">{t(`timetable.state.${one.state}`)}</span></a
                    >
                  </li>
                {/each}
              </ul>
              {#each dueOn.get(day) ?? [] as one (one.id)}
                <a
                  href={one.path}
                  title="{t(`timetable.due_${one.kind}`)}: {one.title} ({one.person || one.locale})"
                  class="mt-1 block rounded border border-dashed px-1.5 py-0.5 text-sm text-moss {span ===
                  'month'
                    ? 'truncate'
                    : ''}">{t(`timetable.due_${one.kind}`)}: {one.title}</a
                >
              {/each}
              {#if here.length > MOST && all !== day}
                <Button look="quiet" class="px-1 text-sm" onclick={() => (all = day)}
                  >{t("timetable.more", { count: here.length - MOST })}</Button
                >
              {/if}
            </td>
          {/each}
        </tr>
      {/each}
    </tbody>
  </Table>
  <p class="pt-2 text-sm text-moss print:hidden">{t("timetable.dragAbout")}</p>
{/if}

<MoveToDay bind:moving />
