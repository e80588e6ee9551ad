<script lang="ts">
  import ChevronLeftOutline from "flowbite-svelte-icons/ChevronLeftOutline.svelte";
  import ChevronRightOutline from "flowbite-svelte-icons/ChevronRightOutline.svelte";
  import { tick } from "svelte";
  import { placeInWeek, shownDay, weeksOf } from "../lib/dates";
  import { later } from "../lib/days";
  import { t } from "../lib/i18n";
  import Button from "./Button.svelte";

  /**
   * A month of days, of which one is chosen. Arrows go by days and weeks, Home and End within the week, Page Up and Down by months.
   * It is ours because the library's has days outside rows and names in one language alone (WAI-ARIA, the grid role).
   */
  let { chosen, today, onChoose }: { chosen: string; today: string; onChoose: (day: string) => void } =
    $props();

  // Where the cursor begins: at what is chosen, or at today.
  // svelte-ignore state_referenced_locally
  let at = $state(chosen || today);
  let grid = $state<HTMLElement>();
  const first = $derived(`${at.slice(0, 7)}-01`);
  const weeks = $derived(weeksOf(at, 6));

  async function go(day: string): Promise<void> {
    at = day;
    await tick();
    grid?.querySelector<HTMLElement>(`[data-day="${day}"]`)?.focus();
  }

  function onkeydown(event: KeyboardEvent): void {
    const sign = grid && getComputedStyle(grid).direction === "rtl" ? -1 : 1;
    const place = placeInWeek(at);
    const to: Record<string, () => string> = {
      ArrowRight: () => later(at, { days: sign }),
      ArrowLeft: () => later(at, { days: -sign }),
      ArrowDown: () => later(at, { days: 7 }),
      ArrowUp: () => later(at, { days: -7 }),
      Home: () => later(at, { days: -place }),
      End: () => later(at, { days: 6 - place }),
      PageDown: () => later(at, { months: event.shiftKey ? 12 : 1 }),
      PageUp: () => later(at, { months: event.shiftKey ? -12 : -1 }),
    };
    const next = to[event.key];
    if (!next) return;
    event.preventDefault();
    void go(next());
  }
</script>

<div class="flex items-center justify-between pb-1">
  <Button
    look="quiet"
    icon={ChevronLeftOutline}
    class="rtl:-scale-x-100"
    label={t("dates.before")}
    onclick={() => (at = later(at, { months: -1 }))}
  />
  <span class="font-semibold" aria-live="polite">{shownDay(first, { month: "long", year: "numeric" })}</span>
  <Button
    look="quiet"
    icon={ChevronRightOutline}
    class="rtl:-scale-x-100"
    label={t("dates.after")}
    onclick={() => (at = later(at, { months: 1 }))}
  />
</div>
<table role="grid" aria-label={t("dates.calendar")} class="border-collapse" bind:this={grid} {onkeydown}>
  <thead>
    <tr>
      {#each weeks[0]! as day (day)}
        <th scope="col" class="p-1 text-sm font-normal text-moss" abbr={shownDay(day, { weekday: "long" })}
          >{shownDay(day, { weekday: "short" })}</th
        >
      {/each}
    </tr>
  </thead>
  <tbody>
    {#each weeks as week (week[0])}
      <tr>
        {#each week as day (day)}
          <td class="p-0" aria-selected={day === chosen}>
            <Button
              look="quiet"
              data-day={day}
              tabindex={day === at ? 0 : -1}
              aria-label={shownDay(day, { weekday: "long", day: "numeric", month: "long", year: "numeric" })}
              aria-current={day === today ? "date" : undefined}
              class={[
                "size-9",
                day.slice(0, 7) !== at.slice(0, 7) && "text-moss",
                day === today && "font-semibold underline",
                day === chosen && "bg-hedge text-hedge-ink hover:not-disabled:bg-hedge",
              ]}
              onclick={() => onChoose(day)}>{Number(day.slice(8))}</Button
            >
          </td>
        {/each}
      </tr>
    {/each}
  </tbody>
</table>
