<script lang="ts">
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure, type Entry } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { historyQuery } from "./queries";
  import { lanes } from "../../lib/graph";
  import { toasts } from "../../lib/state/toasts.svelte";
  import TimeLine from "./TimeLine.svelte";
  import EventList from "../../ui/EventList.svelte";
  import RevisionLine from "../../ui/RevisionLine.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Select from "../../ui/Select.svelte";

  interface Props {
    entry: Entry;
    /** Compare the draft with a side, as it is named. */
    onCompare: (side: string) => void;
    onEntry: (entry: Entry) => void;
    onChange: () => void;
  }
  let { entry, onCompare, onEntry, onChange }: Props = $props();
  const SHARED = "*";
  /** The edition whose history is looked at: this one, or what all languages share. */
  let chosen = $state("");
  const of = $derived(chosen || entry.locale);
  const found = historyQuery(
    () => entry.id,
    () => of,
    () => entry.etag,
  );
  const graph = $derived(lanes(found.data?.revisions ?? []));
  const anyShared = $derived(session.type(entry.type)?.fields.some((field) => field.shared) ?? false);
  const head = $derived(
    chosen
      ? found.data?.revisions.find((one) =>
          entry.strand === "draft" ? one.on_draft : one.strand === entry.strand,
        )?.number
      : entry.revision?.number,
  );
  const mayWrite = $derived(
    (entry.acts.find((act) => act.act === "save")?.allowed ?? false) &&
      (!chosen || entry.locale === entry.source_locale || session.may("configure")),
  );

  /** A revision as a side of a comparison: one of the shared fields with what this language says now. */
  function side(number: number): string {
    return chosen ? `${entry.revision?.number ?? 1}+${number}` : String(number);
  }

  async function bringBack(number: number): Promise<void> {
    try {
      const path = { id: entry.id, locale: of };
      const result = await sure(
        api.POST("/api/entries/{id}/{locale}/restore", {
          params: { path },
          body: { revision: number, strand: entry.strand },
        }),
      );
      if (result.entry.locale === entry.locale) onEntry(result.entry);
      else onChange();
      toasts.say(
        chosen
          ? t("history.broughtBack", { number })
          : t("entry.saved", { number: result.entry.revision?.number }),
      );
    } catch (error) {
      toasts.wrong(error);
    }
  }
</script>

{#if anyShared}
  <label class="flex flex-wrap items-center gap-2 pb-3"
    >{t("history.of")}
    <Select class="w-auto" bind:value={chosen}>
      <option value="">{session.locale(entry.locale)?.name ?? entry.locale}</option>
      <option value={SHARED}>{t("history.shared")}</option>
    </Select></label
  >
{/if}
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting />
{:else}
  <TimeLine {entry} standings={found.data.standings} />
  <h2 class="font-sans pb-2 font-semibold">{t("history.revisions")}</h2>
  <ol class="flex flex-col pb-5">
    {#each found.data.revisions as revision, n (revision.id)}
      <li class="flex gap-2">
        <RevisionLine rows={graph} at={n} />
        <div class="min-w-0 pb-3">
          <p>
            <span class="font-semibold">{revision.number}</span> · {revision.note ||
              t(`history.${revision.origin}`)}
          </p>
          <p class="flex flex-wrap items-center gap-2 text-sm text-moss">
            {when(revision.at)} · {revision.author}
            {#if revision.strand && revision.strand !== "draft"}<span class="rounded bg-wash px-1.5"
                >{revision.strand}</span
              >{/if}
            {#if revision.picked.length}<span
                >{t("history.picked", { what: revision.picked.join(", ") })}</span
              >{/if}
            {#if revision.author_kind === "assistant"}({t("entry.assistant")}){/if}
          </p>
          {#if revision.number !== head}
            <div class="flex gap-2 py-1">
              <Button onclick={() => onCompare(side(revision.number))}>{t("history.compare")}</Button>
              {#if mayWrite}
                <Button onclick={() => bringBack(revision.number)}>{t("history.bringBack")}</Button>
              {/if}
            </div>
          {/if}
        </div>
      </li>
    {/each}
  </ol>
  <h2 class="font-sans pb-2 font-semibold">{t("history.events")}</h2>
  <EventList events={found.data.events} locale={entry.locale} />
{/if}
