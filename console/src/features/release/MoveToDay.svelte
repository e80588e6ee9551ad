<script lang="ts">
  import "../../messages/release";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Dispatch, type WhenAsk } from "../../lib/api";
  import { shownDay } from "../../lib/dates";
  import { wallIn } from "../../lib/days";
  import { t } from "../../lib/i18n";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import MoveList from "./MoveList.svelte";
  import QuietOverride, { quietIn } from "./QuietOverride.svelte";
  import { whenOf } from "./ask";

  /** Moves what is planned to another day, and shows first what that would do. */
  let { moving = $bindable() }: { moving: { one: Dispatch; day: string } | null } = $props();
  const zone = session.me?.zone;
  const queries = useQueryClient();
  let busy = $state(false);
  let override = $state(false);

  /** The same time of day on another day: in the zone in which it was planned, if it was planned as a wall time. */
  function whenOn(one: Dispatch, day: string): WhenAsk {
    const fold = "" as const;
    if (one.wall) return { wall: `${day}T${one.wall.slice(11)}`, zone: one.zone, fold, instant: "" };
    return {
      wall: `${day}T${wallIn(zone, new Date(one.instant!)).slice(11)}`,
      zone: zone ?? "UTC",
      fold,
      instant: "",
    };
  }

  const check = whileTyped(
    () => (moving ? { id: moving.one.id, when: whenOn(moving.one, moving.day), override } : null),
    ({ id, when, override }) =>
      sure(
        api.POST("/api/dispatches/{id}/check", {
          params: { path: { id } },
          body: { when, with_needs: false, override_quiet: override },
        }),
      ),
    { pause: 0 },
  );

  function close(): void {
    moving = null;
    override = false;
    check.forget();
  }

  async function replan(id: string, when: WhenAsk, override_quiet: boolean): Promise<void> {
    const body = { ...when, override_quiet };
    await sure(api.POST("/api/dispatches/{id}/replan", { params: { path: { id } }, body }));
    await queries.invalidateQueries();
  }

  async function move(): Promise<void> {
    const { one, day } = moving!;
    busy = true;
    try {
      await replan(one.id, whenOn(one, day), override);
      close();
      const before = whenOf(one);
      toasts.offer(
        t("timetable.moved", { name: one.name, day: shownDay(day) }),
        t("plan.unplan"),
        () => void replan(one.id, before, one.override_quiet).catch((error) => toasts.wrong(error)),
      );
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open={moving !== null}
  title={moving ? t("timetable.moveTitle", { name: moving.one.name }) : ""}
  size="md"
  go={t("dispatch.doReplan")}
  {busy}
  error={check.error}
  ready={!!check.found}
  onclose={close}
  onsubmit={move}
>
  {#if moving}
    {@const asked = whenOn(moving.one, moving.day)}
    <p>
      {t("timetable.moveTo", {
        day: shownDay(asked.wall.slice(0, 10)),
        time: asked.wall.slice(11, 16),
        zone: asked.zone,
      })}
    </p>
    {#if check.found}
      {@const stuck = check.found.moves.filter((one) => one.unmet.length)}
      {#if stuck.length}
        <p class="font-semibold">{t("dispatch.inTheWay")}</p>
        <MoveList moves={stuck} />
      {:else}
        <p class="text-moss" role="status">{t("plan.clear")}</p>
      {/if}
      <QuietOverride quiet={quietIn(stuck)} bind:override />
      {#each check.found.warnings as warning, n (n)}<p class="text-straw">{warning}</p>{/each}
    {:else if !check.error}
      <Waiting lines={2} />
    {/if}
  {/if}
</FormDialog>
