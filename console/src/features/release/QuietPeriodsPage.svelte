<script lang="ts">
  import "../../messages/release";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type QuietPeriod } from "../../lib/api";
  import { shownMoment } from "../../lib/dates";
  import { todayIn } from "../../lib/days";
  import { t, when } from "../../lib/i18n";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import DateField from "../../ui/DateField.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import ZoneField from "../../ui/ZoneField.svelte";
  import RuleField from "./RuleField.svelte";
  import { quietPeriodsQuery } from "./timetable";
  import { often } from "./rules";

  /** When nothing is released: what there is, and adding, changing and ending it. */
  const queries = useQueryClient();
  const found = quietPeriodsQuery();
  const may = $derived(session.may("configure"));
  let changing = $state.raw<QuietPeriod | null>(null);
  let open = $state(false);
  let asked = $state({ begins: "", ends: "", zone: "", rule: "", reason: "" });
  let busy = $state(false);

  const check = whileTyped(
    () => (open && asked.begins && asked.ends && asked.reason.trim() ? { ...asked } : null),
    (body) => sure(api.POST("/api/quiet-periods/check", { body })),
    { pause: 200 },
  );

  function begin(one: QuietPeriod | null): void {
    const today = todayIn(session.me?.zone);
    changing = one;
    asked = one
      ? { begins: one.begins, ends: one.ends, zone: one.zone, rule: one.rule, reason: one.reason }
      : {
          begins: `${today}T22:00`,
          ends: "",
          zone: session.me?.zone ?? "UTC",
          rule: "",
          reason: "",
        };
    check.forget();
    open = true;
  }

  async function keep(): Promise<void> {
    busy = true;
    try {
      if (changing)
        await sure(
          api.PUT("/api/quiet-periods/{id}", { params: { path: { id: changing.id } }, body: asked }),
        );
      else await sure(api.POST("/api/quiet-periods", { body: asked }));
      open = false;
      toasts.say(t("quiet.kept", { reason: asked.reason }));
      await queries.invalidateQueries();
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }

  async function end(one: QuietPeriod): Promise<void> {
    const { begins, ends, zone, rule, reason } = one;
    try {
      await sure(api.DELETE("/api/quiet-periods/{id}", { params: { path: { id: one.id } } }));
      await queries.invalidateQueries();
      toasts.offer(t("quiet.ended", { reason }), t("plan.unplan"), () => {
        sure(api.POST("/api/quiet-periods", { body: { begins, ends, zone, rule, reason } }))
          .then(() => queries.invalidateQueries())
          .catch((caught: unknown) => toasts.wrong(caught));
      });
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

<svelte:head><title>{t("quiet.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<div class="flex flex-wrap items-center gap-3 pb-1">
  <h1 class="text-2xl font-semibold">{t("quiet.title")}</h1>
  {#if may}<Button class="ms-auto" look="main" onclick={() => begin(null)}>{t("quiet.new")}</Button>{/if}
</div>
<p class="max-w-3xl pb-4 text-moss">{t("quiet.about")}</p>
{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting />
{:else}
  <ul class="flex max-w-4xl flex-col gap-2" aria-label={t("quiet.title")}>
    {#each found.data.items as one (one.id)}
      <li class="sheet flex flex-wrap items-center gap-3 px-4 py-3">
        <div class="min-w-0 flex-1 basis-64">
          <p class="font-semibold">{one.reason}</p>
          <p class="text-sm">
            {t("quiet.span", { begins: shownMoment(one.begins), ends: shownMoment(one.ends) })}{one.rule
              ? `, ${often(one.rule)}`
              : ""}
            <span class="text-moss">({one.zone.replaceAll("_", " ")})</span>
          </p>
          <p class="text-sm text-moss">
            {#if !one.since || !one.until}{t("quiet.over")} ·{:else if one.rule}{t("quiet.next", {
                since: when(one.since),
                until: when(one.until),
              })} ·{/if}
            {t("quiet.by", { by: one.by, when: when(one.at) })}
          </p>
        </div>
        {#if may}
          <Button onclick={() => begin(one)}
            >{t("quiet.change")}<span class="sr-only"> {one.reason}</span></Button
          >
          <Button onclick={() => end(one)}>{t("quiet.end")}<span class="sr-only"> {one.reason}</span></Button>
        {/if}
      </li>
    {:else}<li class="text-moss">{t("quiet.none")}</li>{/each}
  </ul>
{/if}

<FormDialog
  bind:open
  title={changing ? t("quiet.changing") : t("quiet.adding")}
  size="md"
  go={t("quiet.keep")}
  {busy}
  error={check.error}
  ready={!!check.found}
  onsubmit={keep}
>
  <label class="flex flex-col gap-1"
    >{t("quiet.reason")}<Input bind:value={asked.reason} maxlength={200} required />
    <span class="text-sm text-moss">{t("quiet.reasonAbout")}</span></label
  >
  <div class="grid gap-3 sm:grid-cols-2">
    <DateField time zone={asked.zone} label={t("quiet.begins")} bind:value={asked.begins} />
    <DateField time zone={asked.zone} label={t("quiet.ends")} bind:value={asked.ends} />
  </div>
  <ZoneField label={t("plan.zone")} bind:value={asked.zone} />
  {#key changing}<RuleField label={t("quiet.often")} bind:value={asked.rule} />{/key}
  {#if check.found}
    <p class="text-moss" role="status">
      {check.found.since && check.found.until
        ? t("quiet.next", { since: when(check.found.since), until: when(check.found.until) })
        : t("quiet.over")}
    </p>
    {#if check.found.dispatches.length}
      <div class="text-straw">
        <p class="font-semibold">{t("quiet.wouldHold")}</p>
        <ul class="list-disc ps-5">
          {#each check.found.dispatches as one (one.id)}
            <li><a class="underline" href="/timetable/{one.id}">{one.name}</a>, {when(one.instant)}</li>
          {/each}
        </ul>
      </div>
    {/if}
  {/if}
</FormDialog>
