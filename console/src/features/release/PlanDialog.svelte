<script lang="ts">
  import "../../messages/release";
  import { asShown, dispatchOf, moveOf } from "./ask";
  import ChangingPages from "./ChangingPages.svelte";
  import MoveList from "./MoveList.svelte";
  import QuietOverride, { quietIn } from "./QuietOverride.svelte";
  import StageField from "./StageField.svelte";
  import TimeFields from "./TimeFields.svelte";
  import ShownIn from "../delivery/ShownIn.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, once, sure, type Dispatch, type Entry, type WhenAsk } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { live } from "../../lib/state/live.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate } from "../../router";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Radio from "../../ui/Radio.svelte";
  import { toggled } from "../../lib/lists";
  import FormDialog from "../../ui/FormDialog.svelte";

  export type Planned = "release" | "withdraw" | "remove" | "archive" | "advance";
  interface Props {
    open: boolean;
    entry: Entry;
    verb: Planned;
    onDone: (made: Dispatch) => void;
  }
  let { open = $bindable(false), entry, verb, onDone }: Props = $props();
  let later = $state(false);
  let asked = $state<WhenAsk | null>(null);
  let name = $state("");
  /** Whether it is withdrawn again at a time, and when. */
  let ends = $state(false);
  let until = $state<WhenAsk | null>(null);
  let withNeeds = $state(false);
  let override = $state(false);
  /** Whether what is approved by then goes, and not what is now. */
  let follows = $state(false);
  /** Other editions that go along. */
  let also = $state<string[]>([]);
  const others = $derived(
    verb === "remove" || verb === "archive"
      ? []
      : entry.locales.filter((one) => one.exists && one.locale !== entry.locale),
  );
  let busy = $state(false);

  let stage = $state("");
  const payload = $derived<Record<string, unknown>>(verb === "advance" ? { stage } : {});
  const body = $derived(
    dispatchOf(
      [entry.locale, ...also].map((locale) =>
        moveOf(entry.id, locale, { verb, follows: follows && later, payload }),
      ),
      {
        when: later ? asked : null,
        name,
        with_needs: withNeeds,
        override_quiet: override,
        until: ends ? until : null,
      },
    ),
  );

  const checked = whileTyped(
    () => (open && (verb !== "advance" || stage) ? body : null),
    (wanted) => sure(api.POST("/api/dispatches/check", { body: wanted })),
    { pause: 150, keeps: true },
  );
  const check = $derived(checked.found);
  const error = $derived(checked.error);
  async function go(): Promise<void> {
    busy = true;
    await live.quiet(done);
    busy = false;
  }

  async function done(): Promise<void> {
    try {
      const wanted = { ...body, moves: asShown(body.moves, check?.moves ?? []) };
      const made = await sure(api.POST("/api/dispatches", { params: { header: once() }, body: wanted }));
      open = false;
      if (made.state === "planned")
        toasts.offer(t("plan.planned", { when: when(made.instant!) }), t("plan.unplan"), () => unplan(made));
      else toasts.say(t(`plan.done_${verb}`));
      if (verb === "remove" && made.state === "gone") {
        toasts.offer(t("plan.bringBack", { title: entry.title }), t("plan.undo"), () => bringBack());
        await navigate("/entries");
      }
      onDone(made);
    } catch (caught) {
      checked.wrong(caught);
    }
  }

  async function unplan(made: Dispatch): Promise<void> {
    try {
      await sure(api.POST("/api/dispatches/{id}/cancel", { params: { path: { id: made.id } } }));
      onDone(made);
    } catch (caught) {
      toasts.wrong(caught);
    }
  }

  async function bringBack(): Promise<void> {
    try {
      await sure(api.POST("/api/entries/{id}/bring-back", { params: { path: { id: entry.id } } }));
      await navigate("/entries/:id/:locale", { params: { id: entry.id, locale: entry.locale } });
    } catch (caught) {
      toasts.wrong(caught);
    }
  }

  const doing = $derived(`plan.${verb === "release" ? "go" : verb}${later ? "Later" : "Now"}`);
</script>

<FormDialog
  bind:open
  title={t(`plan.${verb}Title`)}
  size="md"
  go={t(doing)}
  {busy}
  ready={!!check &&
    (!check.blocked || (follows && later)) &&
    !(later && !asked) &&
    !(ends && !until) &&
    !error}
  {error}
  onsubmit={go}
>
  <fieldset class="flex flex-wrap gap-5">
    <legend class="sr-only">{t(`plan.${verb}Title`)}</legend>
    <Radio name="when" bind:group={later} value={false}>{t("plan.now")}</Radio>
    <Radio name="when" bind:group={later} value={true}>{t("plan.later")}</Radio>
  </fieldset>
  {#if later}
    <TimeFields bind:asked {error} />
    <label class="flex flex-col gap-1">{t("plan.name")}<Input bind:value={name} /></label>
    {#if verb === "release"}
      <label class="flex items-start gap-2"><Checkbox bind:checked={follows} />{t("dispatch.follows")}</label>
    {/if}
  {/if}
  {#if verb === "advance"}<StageField bind:stage />{/if}
  {#if verb === "release"}
    <label class="flex items-center gap-2"><Checkbox bind:checked={ends} />{t("plan.ends")}</label>
    {#if ends}<TimeFields bind:asked={until} {error} label={t("plan.until")} />{/if}
  {/if}
  {#if others.length}
    <fieldset class="flex flex-wrap gap-x-5 gap-y-1">
      <legend class="pb-1">{t("plan.also")}</legend>
      {#each others as one (one.locale)}
        <label class="flex items-center gap-2"
          ><Checkbox
            checked={also.includes(one.locale)}
            onchange={() => (also = toggled(also, one.locale))}
          /><span lang={one.locale}>{one.name}</span></label
        >
      {/each}
    </fieldset>
  {/if}
  {#if check}
    <section aria-labelledby="goes">
      <h3 id="goes" class="pb-1 font-semibold">{t("plan.goes")}</h3>
      <MoveList moves={check.moves} />
      <ChangingPages {check} />
    </section>
    {#if check.needs.length || withNeeds}
      <label class="flex items-center gap-2"
        ><Checkbox bind:checked={withNeeds} />{t(
          verb === "remove" ? "plan.withReferrers" : "plan.withNeeds",
        )}{check.needs.length ? ": " + check.needs.map((need) => need.title).join(", ") : ""}</label
      >
    {/if}
    <QuietOverride quiet={quietIn(check.moves)} bind:override />
    {#if verb === "release"}<ShownIn id={entry.id} title={entry.title} changing />{/if}
    {#each check.warnings as warning, n (n)}<p class="text-straw">{warning}</p>{/each}
    {#if !check.blocked}<p class="text-moss" role="status">{t("plan.clear")}</p>{/if}
  {:else if !error}
    <Waiting lines={2} />
  {/if}
</FormDialog>
