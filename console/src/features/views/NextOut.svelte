<script lang="ts">
  import type { Dispatch } from "../../lib/api";
  import { instantIn, later, todayIn } from "../../lib/days";
  import { language, t, when } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";

  /** The coming two days as a line of time, with what goes out on it. */
  let { dispatches }: { dispatches: Dispatch[] } = $props();
  const HOURS = 48;
  const began = Date.now();
  const at = (instant: string | Date): number =>
    Math.min(100, Math.max(0, ((new Date(instant).getTime() - began) / (HOURS * 3_600_000)) * 100));
  /** The midnights in between. */
  const zone = session.me?.zone;
  const days = [1, 2]
    .map((n) => instantIn(zone, later(todayIn(zone), { days: n })))
    .filter((midnight) => at(midnight) < 100);
  const weekday = new Intl.DateTimeFormat(language, { weekday: "short", timeZone: zone });
</script>

{#if dispatches.length}
  <div class="relative mb-3 h-8 overflow-x-clip" aria-hidden="true">
    <div class="absolute inset-x-0 top-2.5 border-t-2 border-slate"></div>
    {#each days as midnight (midnight.getTime())}
      <span class="absolute top-1 h-4 border-s border-edge" style:inset-inline-start="{at(midnight)}%"></span>
      <span class="absolute top-4 ps-1 text-xs text-moss" style:inset-inline-start="{at(midnight)}%"
        >{weekday.format(midnight)}</span
      >
    {/each}
    {#each dispatches as one (one.id)}
      <span
        class="absolute top-1 -ms-1.5 size-3 rounded-full border-2 border-slate bg-sheet"
        style:inset-inline-start="{at(one.instant!)}%"
      ></span>
    {/each}
  </div>
{/if}
<ol class="flex flex-col gap-2 {dispatches.length ? 'border-s-2 border-slate ps-3' : ''}">
  {#each dispatches as dispatch (dispatch.id)}
    <li>
      <span class="text-sm font-semibold text-slate">{when(dispatch.instant!)}</span><br />
      <a href="/timetable/{dispatch.id}">{dispatch.name}</a>
    </li>
  {:else}
    <li class="text-moss">{t("myWork.nextNone")}</li>
  {/each}
</ol>
