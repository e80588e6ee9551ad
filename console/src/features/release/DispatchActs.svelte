<script lang="ts">
  import "../../messages/release";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Dispatch, type WhenAsk } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate } from "../../router";
  import { peopleQuery } from "../access/queries";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import QuietOverride, { quietIn } from "./QuietOverride.svelte";
  import TimeFields from "./TimeFields.svelte";
  import { whenOf } from "./ask";
  import { offers } from "./states";
  import UndoDialog from "./UndoDialog.svelte";

  /**
   * What whoever looks may do with a dispatch; what blocks it at its time, and whether the rest of it goes then. As was chosen beside it, a
   * quiet period does not hold it (`override`).
   */
  interface Props {
    one: Dispatch;
    blocked: boolean;
    restGoes: boolean;
    override: boolean;
  }
  let { one, blocked, restGoes, override = $bindable() }: Props = $props();
  const queries = useQueryClient();
  const people = peopleQuery();
  const params = $derived({ path: { id: one.id } });
  /** What is in the way at a time that is to come says nothing of now. */
  const later = $derived(
    ["open", "planned"].includes(one.state) && !!one.instant && new Date(one.instant) > new Date(),
  );
  const may = (act: Dispatch["acts"][number]) => offers(one, act);
  let asking = $state<"" | "plan" | "replan" | "describe" | "undo">("");
  let asked = $state<WhenAsk | null>(null);
  let error = $state<unknown>(null);
  let busy = $state(false);
  let about = $state({ name: "", note: "", owner: "", partial: false });

  function begin(what: typeof asking): void {
    error = null;
    about = { name: one.name, note: one.note, owner: one.owner, partial: one.partial };
    asking = what;
  }

  /** Do something, and say what is wrong in place. */
  async function done(act: () => Promise<unknown>): Promise<boolean> {
    busy = true;
    error = null;
    try {
      await act();
      asking = "";
      await queries.invalidateQueries();
      return true;
    } catch (caught) {
      if (asking) error = caught;
      else toasts.wrong(caught);
      return false;
    } finally {
      busy = false;
    }
  }

  const cancel = () => sure(api.POST("/api/dispatches/{id}/cancel", { params }));
  const reopen = () => sure(api.POST("/api/dispatches/{id}/reopen", { params }));

  async function plan(): Promise<void> {
    const body = { when: asked, with_needs: false, override_quiet: override };
    const { partial } = about;
    const planned = await done(async () => {
      if (partial !== one.partial)
        await sure(api.PATCH("/api/dispatches/{id}", { params, body: { partial } }));
      await sure(api.POST("/api/dispatches/{id}/plan", { params, body }));
    });
    if (planned && (asked || one.instant))
      toasts.offer(t("dispatch.planned", { name: one.name }), t("plan.unplan"), () => void done(reopen));
  }

  async function replan(): Promise<void> {
    // As it is now: by the time that it is undone, it has the new one.
    const [before, body] = [one.instant, { ...whenOf(one), override_quiet: one.override_quiet }];
    const wanted = { ...asked!, override_quiet: override };
    const moved = await done(() => sure(api.POST("/api/dispatches/{id}/replan", { params, body: wanted })));
    if (moved && before && new Date(before) > new Date())
      toasts.offer(
        t("dispatch.moved", { name: one.name }),
        t("plan.unplan"),
        () => void done(() => sure(api.POST("/api/dispatches/{id}/replan", { params, body }))),
      );
  }

  async function send(): Promise<void> {
    const body = { with_needs: false, override_quiet: override };
    if (await done(() => sure(api.POST("/api/dispatches/{id}/send", { params, body }))))
      toasts.say(t("dispatch.sent", { name: one.name }));
  }

  async function undone(made: Dispatch): Promise<void> {
    await queries.invalidateQueries();
    toasts.say(t("dispatch.undone"));
    await navigate("/timetable/:id", { params: { id: made.id } });
  }
</script>

<div class="flex flex-wrap gap-2 pb-4">
  {#if may("plan")}<Button look="main" disabled={!one.count} onclick={() => begin("plan")}
      >{t("dispatch.plan")}</Button
    >{/if}
  {#if may("send") && one.count}
    <Button
      look={one.state === "held" || one.state === "failed" ? "main" : "plain"}
      disabled={busy || (blocked && !restGoes && !later)}
      onclick={send}
      >{t(one.state === "held" || one.state === "failed" ? "dispatch.sendAfterAll" : "dispatch.send")}</Button
    >
  {/if}
  {#if may("replan")}<Button onclick={() => begin("replan")}>{t("dispatch.replan")}</Button>{/if}
  {#if may("reopen")}<Button disabled={busy} onclick={() => done(reopen)}>{t("dispatch.reopen")}</Button>{/if}
  {#if may("undo")}<Button onclick={() => begin("undo")}>{t("dispatch.undo")}</Button>{/if}
  {#if may("describe")}<Button onclick={() => begin("describe")}>{t("dispatch.describe")}</Button>{/if}
  {#if may("cancel")}
    <Button
      disabled={busy}
      onclick={async () => {
        if (await done(cancel)) toasts.say(t("dispatch.cancelled", { name: one.name }));
      }}>{t("timetable.cancel")}</Button
    >
  {/if}
</div>

<!-- Each by itself: one that is only just closing does not close the one that is asked for meanwhile. -->
{#each ["plan", "replan"] as const as act (act)}
  <FormDialog
    open={asking === act}
    title={t(act === "replan" ? "dispatch.replanTitle" : "dispatch.planTitle", { name: one.name })}
    size="md"
    go={t(act === "replan" ? "dispatch.doReplan" : "plan.goLater")}
    {busy}
    {error}
    ready={!!asked || (act === "plan" && !!one.instant)}
    onclose={() => (asking = asking === act ? "" : asking)}
    onsubmit={() => (act === "replan" ? replan() : plan())}
  >
    <TimeFields bind:asked {error} />
    <QuietOverride quiet={quietIn([], error)} bind:override />
    {#if act === "plan" && one.instant}<p class="text-moss">
        {t("dispatch.hasTime", { when: when(one.instant) })}
      </p>{/if}
    {#if act === "plan"}
      <label class="flex items-start gap-2"
        ><Checkbox bind:checked={about.partial} />{t("dispatch.partial")}</label
      >
      {#if blocked}<p class="text-straw">
          {t(about.partial ? "dispatch.heldBack" : "dispatch.blockedNow")}
        </p>{/if}
    {/if}
  </FormDialog>
{/each}

<FormDialog
  open={asking === "describe"}
  title={t("dispatch.describeTitle")}
  go={t("dispatch.save")}
  {busy}
  {error}
  ready={about.name.trim() !== ""}
  onclose={() => (asking = "")}
  onsubmit={() => done(() => sure(api.PATCH("/api/dispatches/{id}", { params, body: about })))}
>
  <label class="flex flex-col gap-1"
    >{t("dispatch.name")}<Input bind:value={about.name} maxlength={120} required /></label
  >
  <label class="flex flex-col gap-1">{t("dispatch.note")}<Textarea rows={3} bind:value={about.note} /></label>
  <label class="flex flex-col gap-1"
    >{t("dispatch.owner")}
    <Select bind:value={about.owner}>
      {#each people.data?.items ?? [] as person (person.handle)}<option value={person.handle}
          >{person.name}</option
        >{/each}
    </Select></label
  >
  <label class="flex items-start gap-2"
    ><Checkbox bind:checked={about.partial} />{t("dispatch.partial")}</label
  >
</FormDialog>

{#if asking === "undo"}
  <UndoDialog {one} onClose={() => (asking = "")} onDone={undone} />
{/if}
