<script lang="ts">
  import "../../messages/events";
  import "../../messages/setup";
  import { searchParams } from "sv-router";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { LogEvent } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { peopleQuery } from "../access/queries";
  import { logQuery } from "./queries";
  import { session } from "../../lib/state/session.svelte";
  import Older from "../../ui/Older.svelte";
  import Select from "../../ui/Select.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import DateField from "../../ui/DateField.svelte";

  const people = peopleQuery();
  const all = session.may("configure");
  let kind = $state("");
  let person = $state(all ? String(searchParams.get("person") ?? "") : (session.me?.handle ?? ""));
  let since = $state("");
  let until = $state("");
  let cursor = $state("");
  const found = logQuery(() => ({ kind, person, since, until, cursor }));
  const kinds = [
    "entry.",
    "review.",
    "dispatch.",
    "comment.",
    "assignment.",
    "strand.",
    "job.",
    "type.",
    "workflow.",
    "role.",
    "person.",
    "key.",
    "assistant.",
    "session.",
    "access.",
    "mail.",
    "quiet.",
    "webhook.",
  ];

  function about(event: LogEvent): { text: string; to: string } {
    const what = event.what as Record<string, unknown>;
    const called =
      what.title ??
      what.name ??
      what.handle ??
      what.workflow ??
      what.role ??
      what.type ??
      what.what ??
      what.to ??
      "";
    // What has no title yet is led to by a word all the same.
    const text = String(called) || (what.entry || what.dispatch ? t("list.untitled") : "");
    const locale = String(what.locale ?? "");
    const to =
      what.entry && locale
        ? `/entries/${what.entry}/${locale}`
        : what.dispatch
          ? `/timetable/${what.dispatch}`
          : "";
    return { text: locale && text ? `${text} (${locale})` : text, to };
  }

  function ask(): void {
    cursor = "";
  }
</script>

<svelte:head><title>{t("log.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("log.title")}</h1>
<p class="max-w-3xl pb-3 text-moss">{t(all ? "log.about" : "log.aboutOwn")}</p>
<div class="flex flex-wrap items-end gap-3 pb-4">
  <label class="flex flex-col text-sm"
    >{t("log.kind")}
    <Select bind:value={kind} onchange={ask}>
      <option value="">{t("log.anything")}</option>
      {#each kinds as one (one)}<option value={one}>{t(`log.kind_${one.slice(0, -1)}`)}</option>{/each}
    </Select></label
  >
  {#if all}
    <label class="flex flex-col text-sm"
      >{t("log.person")}
      <Select bind:value={person} onchange={ask}>
        <option value="">{t("log.anyone")}</option>
        {#each people.data?.items ?? [] as one (one.handle)}<option value={one.handle}>{one.name}</option
          >{/each}
      </Select></label
    >
  {/if}
  <DateField class="text-sm" label={t("log.since")} bind:value={since} onchange={ask} />
  <DateField class="text-sm" label={t("log.until")} bind:value={until} onchange={ask} />
</div>
{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting />
{:else}
  <ol class="sheet max-w-5xl divide-y" aria-label={t("log.title")}>
    {#each found.data.items as event (event.seq)}
      {@const one = about(event)}
      <li class="grid grid-cols-1 gap-x-4 px-4 py-2 break-words sm:grid-cols-[9rem_minmax(0,1fr)]">
        <span class="text-sm text-moss">{when(event.at)}</span>
        <div class="min-w-0">
          <span class="font-semibold">{event.by}</span>
          <span title={event.kind}>{t(`event.${event.kind.replace(".", "_")}`)}</span>
          {#if one.to}<a class="underline" href={one.to}>{one.text}</a>{:else}{one.text}{/if}
          <Disclosure title={t("log.detail", { seq: event.seq })} class="text-sm">
            <!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls has to be reached by keyboard) -->
            <pre
              tabindex="0"
              aria-label={t("log.payload")}
              class="max-h-64 overflow-auto rounded bg-wash p-2 text-xs break-all whitespace-pre-wrap">{JSON.stringify(
                event.what,
                null,
                1,
              )}</pre>
            <p class="break-all text-moss">{t("log.hash")} <code>{event.hash}</code></p>
          </Disclosure>
        </div>
      </li>
    {:else}<li class="px-4 py-3 text-moss">{t("log.none")}</li>{/each}
  </ol>
  <Older bind:cursor next={found.data.next} />
{/if}
