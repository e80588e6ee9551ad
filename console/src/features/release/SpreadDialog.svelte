<script lang="ts">
  import "../../messages/release";
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, once, sure } from "../../lib/api";
  import { todayIn, later } from "../../lib/days";
  import { shownDay } from "../../lib/dates";
  import { t, when } from "../../lib/i18n";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import DateField from "../../ui/DateField.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Handle from "../../ui/Handle.svelte";
  import Input from "../../ui/Input.svelte";
  import Sortable from "../../ui/Sortable.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import ZoneField from "../../ui/ZoneField.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import QuietOverride, { quietIn } from "./QuietOverride.svelte";
  import RuleField from "./RuleField.svelte";
  import { moveOf } from "./ask";

  /** Entries that go out one after another: when each would go is shown first, and their order is changed by dragging. */
  interface Props {
    items: { id: string; locale: string }[];
    onClose: () => void;
    onDone?: () => void;
  }
  let { items, onClose, onDone }: Props = $props();
  const queries = useQueryClient();
  const tomorrow = later(todayIn(session.me?.zone), { days: 1 });
  let begins = $state(`${tomorrow}T09:00`);
  let zone = $state(session.me?.zone ?? "UTC");
  let rule = $state("FREQ=DAILY");
  let skip = $state<string[]>([]);
  let skipped = $state("");
  let name = $state("");
  let override = $state(false);
  let busy = $state(false);
  /** The entries in their order; the languages of one go together. */
  let order = $state.raw(untrack(() => [...new Set(items.map((one) => one.id))].map((id) => ({ id }))));
  const body = $derived({
    moves: order.flatMap(({ id }) =>
      items.filter((one) => one.id === id).map((one) => moveOf(one.id, one.locale)),
    ),
    begins,
    zone,
    rule,
    skip,
    fold: "" as const,
    name,
    note: "",
    override_quiet: override,
  });
  const check = whileTyped(
    () => (begins && rule ? body : null),
    (wanted) => sure(api.POST("/api/dispatches/spread/check", { body: wanted })),
    { pause: 150, keeps: true },
  );
  const steps = $derived(check.found?.steps ?? []);
  /** What goes at a time, as it was checked last: by the entry that it is about. */
  const stepOf = (id: string) => steps.find((step) => step.moves.some((move) => move.id === id));
  const own = (id: string) => stepOf(id)?.moves.filter((move) => move.id === id) ?? [];
  const titleOf = (id: string) => own(id).find((move) => move.title)?.title ?? t("list.untitled");
  /** What is in the way of one; of its shared fields the same is said once. */
  const unmet = (id: string) => {
    const found = own(id).flatMap((move) => move.unmet);
    return [...new Map(found.map((one) => [one.what, one])).values()].filter(
      (one) => !(override && one.code === "quiet"),
    );
  };
  const blocked = $derived(order.some(({ id }) => unmet(id).length > 0));

  function leave(day: string): void {
    if (day && !skip.includes(day)) skip = [...skip, day].sort();
    skipped = "";
  }

  async function go(): Promise<void> {
    busy = true;
    try {
      const made = await sure(api.POST("/api/dispatches/spread", { params: { header: once() }, body }));
      await queries.invalidateQueries();
      const ids = made.items.map((one) => one.id);
      toasts.offer(t("spread.done", { count: ids.length }), t("plan.unplan"), () => void undo(ids));
      onDone?.();
      onClose();
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }

  async function undo(ids: string[]): Promise<void> {
    try {
      for (const id of ids) await sure(api.POST("/api/dispatches/{id}/cancel", { params: { path: { id } } }));
      await queries.invalidateQueries();
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

<FormDialog
  open
  title={t("spread.title", { count: order.length })}
  size="md"
  go={t("spread.go")}
  {busy}
  error={check.error}
  ready={!!check.found && !blocked && !check.error}
  onclose={onClose}
  onsubmit={go}
>
  <div class="grid gap-3 sm:grid-cols-2">
    <DateField time {zone} label={t("spread.begins")} bind:value={begins} />
    <ZoneField label={t("plan.zone")} bind:value={zone} />
    <div class="flex flex-col gap-2">
      <RuleField once={false} label={t("quiet.often")} bind:value={rule} />
    </div>
    <DateField {zone} label={t("spread.skip")} bind:value={skipped} onvalue={leave} />
  </div>
  {#if skip.length}
    <ul class="flex flex-wrap gap-2" aria-label={t("spread.skipped")}>
      {#each skip as day (day)}
        <li>
          <Button look="quiet" icon={CloseOutline} onclick={() => (skip = skip.filter((one) => one !== day))}
            >{t("spread.without", { day: shownDay(day) })}<span class="sr-only">{t("spread.again")}</span
            ></Button
          >
        </li>
      {/each}
    </ul>
  {/if}
  <label class="flex flex-col gap-1">{t("plan.name")}<Input bind:value={name} maxlength={100} /></label>
  {#if check.found}
    <section aria-labelledby="spread-order">
      <h3 id="spread-order" class="pb-1 font-semibold">{t("spread.order")}</h3>
      <Sortable items={order} named={(one) => titleOf(one.id)} onOrder={(next) => (order = next)}>
        {#snippet children(one)}
          <div class="flex items-start gap-2 py-1">
            <Handle id={one.id} label={t("spread.move", { title: titleOf(one.id) })} />
            <div class="min-w-0">
              <p>
                <span class="font-semibold">{titleOf(one.id)}</span>
                <span class="text-moss">{stepOf(one.id) ? when(stepOf(one.id)!.instant) : ""}</span>
              </p>
              {#each unmet(one.id) as condition, n (n)}<p class="text-sm text-straw">
                  {condition.what}
                </p>{/each}
            </div>
          </div>
        {/snippet}
      </Sortable>
    </section>
    <QuietOverride quiet={quietIn(steps.flatMap((step) => step.moves))} bind:override />
  {:else if !check.error}
    <Waiting lines={3} />
  {/if}
</FormDialog>
