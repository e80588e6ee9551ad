<script lang="ts">
  import "../../messages/translation";
  import { api, once, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import { toggled } from "../../lib/lists";
  import FormDialog from "../../ui/FormDialog.svelte";
  import DateField from "../../ui/DateField.svelte";

  let {
    open = $bindable(false),
    entries,
    first = [],
    onDone,
  }: {
    open: boolean;
    entries: { id: string; title: string; source_locale: string }[];
    /** The languages that are chosen to begin with; those in which something is missing when there are none. */
    first?: string[];
    onDone: () => void;
  } = $props();
  let locales = $state<string[]>([]);
  /** Whether somebody chose the languages themselves. */
  let chosen = $state(false);
  let bureau = $state(session.setup?.bureaus[0] ?? "");
  let due = $state("");
  let name = $state("");
  let note = $state("");
  let again = $state(false);
  let counts = $state<Record<string, { units: number; words: number; away: number; trouble: string }>>({});
  /** What the languages were chosen for by themselves: another bureau leaves them, and what it does not do is said. */
  let settled = "";
  /** Which look at what it would hold is the last one: an older answer that comes late is none. */
  let last = 0;
  let error = $state<unknown>(null);
  let busy = $state(false);
  /** Whether it could not be sent as it is, whatever is chosen: its day is over. */
  let refused = $state(false);
  const away = $derived(again || Object.values(counts).some((count) => count.away > 0));
  const targets = $derived(
    (session.setup?.locales ?? []).filter((one) => !entries.some((entry) => entry.source_locale === one.tag)),
  );

  $effect(() => {
    if (!open) {
      settled = "";
      return;
    }
    const ids = entries.map((entry) => entry.id);
    const asked = (last += 1);
    const wanted = targets.map((one) => one.tag);
    const about = JSON.stringify([ids, again]);
    void sure(
      api.POST("/api/commissions/estimate", {
        body: {
          entries: ids,
          locales: wanted,
          name: "",
          due,
          note: "",
          bureau,
          again,
          current: false,
        },
      }),
    ).then(
      (found) => {
        if (asked !== last) return;
        error = null;
        refused = false;
        counts = Object.fromEntries(found.items.map((item) => [item.locale, item]));
        // Where something is missing is where it is most likely to be sent.
        if (chosen || settled === about) return;
        settled = about;
        locales = found.items
          .filter((item) => item.units && (first.length ? first.includes(item.locale) : !item.trouble))
          .map((item) => item.locale);
      },
      (caught) => {
        if (asked !== last) return;
        error = caught;
        refused = true;
      },
    );
  });

  async function send(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      await sure(
        api.POST("/api/commissions", {
          params: { header: once() },
          body: {
            entries: entries.map((entry) => entry.id),
            locales,
            name,
            due,
            note,
            bureau,
            again,
            current: false,
          },
        }),
      );
      open = false;
      locales = [];
      chosen = false;
      toasts.say(t(bureau ? "jobs.sent" : "jobs.made", { bureau }));
      onDone();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  bind:open
  title={t("jobs.commission")}
  size="md"
  go={bureau ? t("jobs.send") : t("jobs.order")}
  {busy}
  ready={!refused && !!locales.length && !locales.some((tag) => counts[tag]?.trouble)}
  {error}
  onsubmit={send}
>
  {#if entries.length > 1}
    <p>{t("jobs.entries", { count: entries.length })}</p>
    <ul class="max-h-32 list-disc overflow-y-auto ps-5 text-sm">
      {#each entries as one (one.id)}<li>{one.title}</li>{/each}
    </ul>
  {/if}
  <fieldset>
    <legend class="pb-1 font-semibold">{t("jobs.to")}</legend>
    {#each targets as one (one.tag)}
      {@const count = counts[one.tag]}
      <label class="flex items-center gap-2 py-0.5">
        <Checkbox
          checked={locales.includes(one.tag)}
          onchange={() => {
            chosen = true;
            locales = toggled(locales, one.tag);
          }}
          disabled={!count?.units || (!!count.trouble && !locales.includes(one.tag))}
        />
        <span lang={one.tag}>{one.name}</span>
        {#if count}
          <span class="text-sm text-moss"
            >{count.units
              ? t("jobs.estimate", { words: count.words, units: count.units })
              : count.away
                ? t("jobs.onTheWay", { count: count.away })
                : t("jobs.nothingNeeded")}{count.units && count.away
              ? `; ${t("jobs.onTheWay", { count: count.away })}`
              : ""}</span
          >
        {/if}
      </label>
      {#if count?.units && count.trouble}<p class="ps-6 text-sm font-semibold">{count.trouble}</p>{/if}
    {/each}
    {#if away}
      <label class="mt-2 flex items-center gap-2">
        <Checkbox bind:checked={again} />
        <span>{t("jobs.onceMore")}</span>
      </label>
    {/if}
  </fieldset>
  <div class="grid gap-3 sm:grid-cols-2">
    <label class="flex flex-col gap-1"
      >{t("jobs.bureau")}
      <Select bind:value={bureau}>
        {#each session.setup?.bureaus ?? [] as one (one)}<option value={one}>{one}</option>{/each}
        <option value="">{t("jobs.byHand")}</option>
      </Select></label
    >
    <DateField label={t("jobs.due")} bind:value={due} />
    <label class="flex flex-col gap-1"
      >{t("jobs.name")}<Input bind:value={name} placeholder={entries[0]?.title} /></label
    >
    <label class="flex flex-col gap-1">{t("jobs.noteFor")}<Input bind:value={note} /></label>
  </div>
</FormDialog>
