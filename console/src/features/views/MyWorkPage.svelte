<script lang="ts">
  import EntryTable from "../search/EntryTable.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { WorkLine } from "../../lib/api";
  import { day, t, when } from "../../lib/i18n";
  import { myWorkQuery } from "../../lib/queries";

  const work = myWorkQuery();

  function place(line: WorkLine): string {
    if (line.comment) return `/entries/${line.id}/${line.locale}?comment=${line.comment}`;
    return line.kind === "translation" ? `/translation/${line.job}` : `/entries/${line.id}/${line.locale}`;
  }
</script>

<svelte:head><title>{t("nav.myWork")} – {t("app.name")}</title></svelte:head>
<h1 class="text-2xl font-semibold">{t("nav.myWork")}</h1>
{#if work.error}
  <Trouble error={work.error} again={() => work.refetch()} />
{:else if !work.data}
  <Waiting />
{:else}
  <div class="grid gap-6 pt-4 xl:grid-cols-[minmax(0,1fr)_20rem]">
    <div class="flex min-w-0 flex-col gap-6">
      <section aria-labelledby="waiting">
        <h2 id="waiting" class="mb-2 text-lg font-semibold">{t("myWork.waiting")}</h2>
        <ul class="flex flex-col gap-2">
          {#each work.data.waiting as line (line.kind + line.id + line.locale + line.job + line.comment)}
            <li class="sheet border-s-4 border-s-berry px-4 py-3">
              <span class="font-semibold text-berry">{t(`myWork.${line.kind}`)}</span>
              <a class="ms-1 font-serif text-lg font-semibold" href={place(line)}>{line.title}</a>
              <span class="text-sm text-moss"
                >{line.type}{line.type ? ", " : ""}{line.locale}
                {line.by ? ` · ${t("myWork.from", { by: line.by })}` : ""} · {when(line.at)}</span
              >
              {#if line.note}<p class="mt-1">“{line.note}”</p>{/if}
            </li>
          {:else}
            <li class="text-moss">{t("myWork.waitingNone")}</li>
          {/each}
        </ul>
      </section>
      {#if work.data.assigned_to_you.length}
        <section aria-labelledby="inhands">
          <h2 id="inhands" class="mb-2 text-lg font-semibold">{t("myWork.assignedToYou")}</h2>
          <ul class="flex flex-col gap-2">
            {#each work.data.assigned_to_you as line (line.id + line.locale)}
              <li class="sheet px-4 py-3 {line.state ? 'border-s-4 border-s-straw' : ''}">
                <a class="font-serif text-lg font-semibold" href={place(line)}>{line.title}</a>
                <span class="text-sm text-moss"
                  >{line.type}, {line.locale} · {t("myWork.from", { by: line.by })}</span
                >
                {#if line.due}<span class="text-sm {line.state ? 'font-semibold text-straw' : 'text-moss'}"
                    >· {t(line.state === "late" ? "assign.late" : "assign.due", { day: day(line.due) })}</span
                  >{/if}
                {#if line.note}<p class="mt-1">“{line.note}”</p>{/if}
              </li>
            {/each}
          </ul>
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
        <ol class="flex flex-col gap-2 border-s-2 border-slate ps-3">
          {#each work.data.next_out as dispatch (dispatch.id)}
            <li>
              <span class="text-sm font-semibold text-slate">{when(dispatch.instant)}</span><br />
              <a href="/timetable/{dispatch.id}">{dispatch.name}</a>
            </li>
          {:else}
            <li class="text-moss">{t("myWork.nextNone")}</li>
          {/each}
        </ol>
      </section>
      {#if work.data.assigned_to_others.length}
        <section aria-labelledby="withothers">
          <h2 id="withothers" class="mb-2 text-lg font-semibold">{t("myWork.assignedToOthers")}</h2>
          <ul class="flex flex-col gap-2">
            {#each work.data.assigned_to_others as line (line.id + line.locale)}
              <li class="sheet px-3 py-2">
                <a class="font-semibold" href={place(line)}>{line.title}</a>
                <p class="text-sm text-moss">
                  {t("myWork.with", { who: line.who.join(", ") })}
                  {#if line.due}<span class={line.state === "late" ? "font-semibold text-straw" : ""}
                      >· {t(line.state === "late" ? "assign.late" : "assign.due", {
                        day: day(line.due),
                      })}</span
                    >{/if}
                </p>
              </li>
            {/each}
          </ul>
        </section>
      {/if}
      {#if work.data.you_wait_for.length}
        <section aria-labelledby="waitfor">
          <h2 id="waitfor" class="mb-2 text-lg font-semibold">{t("myWork.waitFor")}</h2>
          <ul class="flex flex-col gap-2">
            {#each work.data.you_wait_for as line (line.id + line.locale)}
              <li class="sheet px-3 py-2">
                <a class="font-semibold" href={place(line)}>{line.title}</a>
                <p class="text-sm text-moss">
                  {t("myWork.with", { who: line.who.join(", ") || t("myWork.nobody") })} · {t(
                    "myWork.since",
                    {
                      when: when(line.at),
                    },
                  )}
                </p>
              </li>
            {/each}
          </ul>
        </section>
      {/if}
    </div>
  </div>
{/if}
