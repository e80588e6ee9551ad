<script lang="ts">
  // Its parts that come later are loaded by them: the router takes a page that says `import(` for one that is to be loaded.
  import Beginning from "../frame/Beginning.svelte";
  import EntryTable from "../search/EntryTable.svelte";
  import type { WorkLine } from "../../lib/api";
  import { day, language, t, when } from "../../lib/i18n";
  import { myWorkQuery } from "./queries";
  import Button from "../../ui/Button.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import AssignedHere from "./AssignedHere.svelte";
  import NextOut from "./NextOut.svelte";
  import SaidToYou from "./SaidToYou.svelte";
  import WaitingHere from "./WaitingHere.svelte";
  import { byUrgency, KINDS, place, type Kind } from "./work";

  const work = myWorkQuery();
  let only = $state<"" | Kind>("");
  const today = new Intl.DateTimeFormat(language, { weekday: "long", day: "numeric", month: "long" });
  const waiting = $derived((work.data?.waiting ?? []).toSorted(byUrgency));
  const assigned = $derived((work.data?.assigned_to_you ?? []).toSorted(byUrgency));
  const due = $derived(assigned.filter((line) => line.state));
  const kinds = $derived(
    KINDS.map((kind) => ({ kind, count: waiting.filter((line) => line.kind === kind).length })).filter(
      (one) => one.count,
    ),
  );
  const chip = (on: boolean) =>
    `rounded-full border px-3 text-sm ${on ? "border-hedge font-semibold text-hedge" : "border-line text-moss"}`;
  // What was filtered by may all be done meanwhile.
  const filtered = $derived(kinds.some((one) => one.kind === only) ? only : "");
</script>

<svelte:head><title>{t("nav.myWork")} – {t("app.name")}</title></svelte:head>
<div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
  <h1 class="text-2xl font-semibold">{t("nav.myWork")}</h1>
  <p class="text-moss">
    {today.format(new Date())}{#if work.data}&nbsp;· {t("myWork.dayWaits", { count: waiting.length })} · {t(
        "myWork.dayDue",
        { count: due.length },
      )} · {t("myWork.dayOut", { count: work.data.next_out.length })}{/if}
  </p>
</div>
<Beginning />
{#if work.error && !work.data}
  <Trouble error={work.error} again={() => work.refetch()} />
{:else if !work.data}
  <Waiting />
{:else}
  <div class="grid gap-6 pt-4 xl:grid-cols-[minmax(0,1fr)_20rem]">
    <div class="flex min-w-0 flex-col gap-6">
      <section aria-labelledby="waiting">
        <div class="mb-2 flex flex-wrap items-center gap-2">
          <h2 id="waiting" class="me-2 text-lg font-semibold">{t("myWork.waiting")}</h2>
          {#if kinds.length > 1}
            <Button look="quiet" aria-pressed={!filtered} class={chip(!filtered)} onclick={() => (only = "")}
              >{t("myWork.everything")} {waiting.length}</Button
            >
            {#each kinds as one (one.kind)}
              <Button
                look="quiet"
                aria-pressed={filtered === one.kind}
                class={chip(filtered === one.kind)}
                onclick={() => (only = filtered === one.kind ? "" : one.kind)}
                >{t(`myWork.${one.kind}`)} {one.count}</Button
              >
            {/each}
          {/if}
        </div>
        {#if waiting.length}<WaitingHere lines={waiting} only={filtered} />{:else}<p class="text-moss">
            {t("myWork.waitingNone")}
          </p>{/if}
      </section>
      {#if assigned.length}
        <section aria-labelledby="inhands">
          <h2 id="inhands" class="mb-2 text-lg font-semibold">{t("myWork.assignedToYou")}</h2>
          <AssignedHere lines={assigned} />
        </section>
      {/if}
      <section aria-labelledby="yours">
        <h2 id="yours" class="mb-2 text-lg font-semibold">{t("myWork.yours")}</h2>
        {#if work.data.yours.length}
          <EntryTable lines={work.data.yours} label={t("myWork.yours")} />
        {:else}
          <p class="text-moss">
            {t("myWork.yoursNone")} <a href="/entries?start=yes">{t("myWork.start")}</a>
          </p>
        {/if}
      </section>
    </div>
    <div class="flex flex-col gap-6">
      <section aria-labelledby="next">
        <h2 id="next" class="mb-2 text-lg font-semibold">{t("myWork.next")}</h2>
        <NextOut dispatches={work.data.next_out} />
      </section>
      <SaidToYou />
      {@render others("assignedToOthers", work.data.assigned_to_others)}
      {@render others("waitFor", work.data.you_wait_for)}
    </div>
  </div>
{/if}

{#snippet others(title: string, lines: WorkLine[])}
  {#if lines.length}
    <section aria-labelledby={title}>
      <h2 id={title} class="mb-2 text-lg font-semibold">{t(`myWork.${title}`)}</h2>
      <ul class="flex flex-col gap-2">
        {#each lines.toSorted(byUrgency) as line (line.id + line.locale)}
          <li class="sheet px-3 py-2">
            <a class="font-semibold" href={place(line)}>{line.title}</a>
            <p class="text-sm text-moss">
              {t("myWork.with", { who: line.who.join(", ") || t("myWork.nobody") })}
              {#if line.due}<span class={line.state === "late" ? "font-semibold text-straw" : ""}
                  >· {t(line.state === "late" ? "assign.late" : "assign.due", { day: day(line.due) })}</span
                >{:else}· {t("myWork.since", { when: when(line.at) })}{/if}
            </p>
          </li>
        {/each}
      </ul>
    </section>
  {/if}
{/snippet}
