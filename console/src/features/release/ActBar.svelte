<script lang="ts">
  import { untrack } from "svelte";
  import { searchParams } from "sv-router";
  import MoreMenu from "../content/MoreMenu.svelte";
  import type { Planned } from "./PlanDialog.svelte";
  import { api, sure, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { present } from "../../lib/state/present.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import Popover from "../../ui/Popover.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";

  interface Props {
    entry: Entry;
    dirty: boolean;
    onEntry: (entry: Entry) => void;
    onChange: () => void;
  }
  let { entry, dirty, onEntry, onChange }: Props = $props();
  type Asking = "submit" | "sign" | "send-back" | "";
  let asking = $state<Asking>("");
  let words = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);
  let planning = $state(false);
  let verb = $state<Planned>("release");
  let commissioning = $state(false);
  let asks = $state(false);
  let wanted = $state({ plan: false, commission: false });

  /** What waited when an act was begun: what comes meanwhile is not signed off with it. */
  let looked = $state.raw<Entry["review"]>(null);

  const offers = $derived(Object.fromEntries(entry.acts.map((act) => [act.act, act])));
  const order = ["submit", "sign", "move-on", "release", "send-back", "take-back", "withdraw", "commission"];
  const open = $derived(order.filter((act) => offers[act]?.allowed));
  /** Whether nothing stands between what is signed off, or the draft, and its release. */
  const clear = $derived(
    entry.gate?.stage === entry.rail.at(-1)?.stage && !entry.gate?.unmet.length && !entry.missing.length,
  );
  /** The act that moves the edition on: the first that fits and would not be blocked at once. What takes back is never it. */
  const main = $derived(
    open.includes("sign")
      ? "sign"
      : open.includes("release") && clear
        ? "release"
        : (open.find((act) => act === "move-on" || act === "submit") ?? ""),
  );
  const refused = $derived(order.filter((act) => offers[act] && !offers[act].allowed));
  const bar = $derived({ acts: open, refuses: refused.length > 0 });
  /** What is shown: under a pointer, what somebody else does moves nothing away until it is gone, or there was time to see. */
  let shown = $state.raw<typeof bar>();
  let over = false;
  const TIME_TO_SEE = 3_000;
  $effect.pre(() => {
    const now = bar;
    if (!over) {
      shown = now;
      return;
    }
    const timer = setTimeout(() => (shown = now), TIME_TO_SEE);
    return () => clearTimeout(timer);
  });

  function begin(act: string): void {
    error = null;
    words = "";
    looked = entry.review;
    if (["release", "withdraw", "remove", "archive", "advance"].includes(act)) {
      verb = act as Planned;
      planning = wanted.plan = true;
    } else if (act === "commission") commissioning = wanted.commission = true;
    else if (act === "take-back" || act === "move-on") void simply(act);
    else {
      asking = act as Asking;
      asks = true;
    }
  }

  // The command box begins acts too: on what is open here, or by the address that it leads to.
  $effect(() => {
    const seen = entry;
    return untrack(() => present.stay(seen, begin));
  });
  $effect(() => {
    const asked = searchParams.get("act");
    if (!asked) return;
    searchParams.delete("act");
    if (["remove", "archive", "advance"].includes(String(asked)) || offers[String(asked)]?.allowed)
      untrack(() => begin(String(asked)));
  });

  /** What one does oneself shows at once. */
  function done(made: Entry): void {
    over = false;
    onEntry(made);
  }

  async function simply(act: "take-back" | "move-on"): Promise<void> {
    try {
      done(await sure(api.POST(`/api/entries/{id}/{locale}/${act}`, { params: { path: path() } })));
    } catch (caught) {
      toasts.wrong(caught);
    }
  }

  function path() {
    return { id: entry.id, locale: entry.locale };
  }

  async function go(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    const params = { path: path() };
    try {
      if (asking === "submit") {
        done(await sure(api.POST("/api/entries/{id}/{locale}/submit", { params, body: { note: words } })));
        toasts.offer(t("entry.submitted"), t("entry.take-back"), () => void simply("take-back"));
      } else if (asking === "sign") {
        const { revision, common_revision } = looked!;
        const body = { revision, common_revision: common_revision ?? 0, note: words };
        done(await sure(api.POST("/api/entries/{id}/{locale}/sign", { params, body })));
        toasts.say(t("entry.signed", { number: body.revision }));
      } else if (asking === "send-back") {
        done(
          await sure(api.POST("/api/entries/{id}/{locale}/send-back", { params, body: { reason: words } })),
        );
      }
      asks = false;
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<div
  class="flex flex-wrap items-center gap-2"
  role="group"
  onpointerenter={() => (over = true)}
  onpointerleave={() => {
    over = false;
    shown = bar;
  }}
>
  {#each (shown ?? bar).acts as act (act)}
    {@const gone = !offers[act]?.allowed}
    <Button
      look={act === main && !dirty ? "main" : "plain"}
      disabled={gone || (dirty && act !== "commission")}
      title={gone ? offers[act]?.why : dirty ? t("entry.unsaved") : undefined}
      onclick={() => begin(act)}>{t(`entry.${act}`)}</Button
    >
  {/each}
  <MoreMenu {entry} onAct={begin} />
  {#if (shown ?? bar).refuses}
    <Popover title={t("entry.why")} look="quiet" class="text-sm text-moss" within="w-80 p-3">
      <dl class="text-sm">
        {#each refused as act (act)}
          <dt class="font-semibold">{t(`entry.${act}`)}</dt>
          <dd class="pb-2 text-moss">{offers[act]?.why}</dd>
        {/each}
      </dl>
    </Popover>
  {/if}
</div>

<FormDialog
  bind:open={asks}
  title={asking ? t(`entry.${asking}`) : ""}
  go={asking ? t(`entry.${asking}`) : ""}
  {busy}
  {error}
  onsubmit={go}
>
  <label class="flex flex-col gap-1"
    >{t(asking === "send-back" ? "entry.reason" : asking === "submit" ? "entry.note" : "entry.noteOptional")}
    <Textarea rows={3} bind:value={words} required={asking === "send-back"} /></label
  >
</FormDialog>
<!-- Either comes when it is first asked for, and stays, so that the focus finds back when it is closed. -->
{#if wanted.plan}{#await import("./PlanDialog.svelte") then part}<part.default
      bind:open={planning}
      {entry}
      {verb}
      onDone={onChange}
    />{/await}{/if}
{#if wanted.commission}{#await import("../translation/CommissionDialog.svelte") then part}<part.default
      bind:open={commissioning}
      entries={[entry]}
      onDone={onChange}
    />{/await}{/if}
