<script lang="ts">
  import EntryTable from "../lib/components/EntryTable.svelte";
  import Trouble from "../lib/components/Trouble.svelte";
  import Waiting from "../lib/components/Waiting.svelte";
  import type { HandLine } from "../lib/api";
  import { day, t, when } from "../lib/i18n";
  import { handQuery } from "../lib/queries";

  const hand = handQuery();

  function place(line: HandLine): string {
    if (line.remark) return `/entries/${line.id}/${line.locale}?remark=${line.remark}`;
    return line.kind === "translation" ? `/translation/${line.job}` : `/entries/${line.id}/${line.locale}`;
  }
</script>

<svelte:head><title>{t("nav.inHand")} – {t("app.name")}</title></svelte:head>
<h1 class="text-2xl font-semibold">{t("nav.inHand")}</h1>
{#if hand.error}
  <Trouble error={hand.error} again={() => hand.refetch()} />
{:else if !hand.data}
  <Waiting />
{:else}
  <div class="grid gap-6 pt-4 xl:grid-cols-[minmax(0,1fr)_20rem]">
    <div class="flex min-w-0 flex-col gap-6">
      <section aria-labelledby="waiting">
        <h2 id="waiting" class="mb-2 text-lg font-semibold">{t("hand.waiting")}</h2>
        <ul class="flex flex-col gap-2">
          {#each hand.data.waiting as line (line.kind + line.id + line.locale + line.job + line.remark)}
            <li class="sheet border-s-4 border-s-berry px-4 py-3">
              <span class="font-semibold text-berry">{t(`hand.${line.kind}`)}</span>
              <a class="ms-1 font-serif text-lg font-semibold" href={place(line)}>{line.title}</a>
              <span class="text-sm text-moss"
                >{line.type}{line.type ? ", " : ""}{line.locale}
                {line.by ? ` · ${t("hand.from", { by: line.by })}` : ""} · {when(line.at)}</span
              >
              {#if line.note}<p class="mt-1">“{line.note}”</p>{/if}
            </li>
          {:else}
            <li class="text-moss">{t("hand.waitingNone")}</li>
          {/each}
        </ul>
      </section>
      {#if hand.data.in_your_hands.length}
        <section aria-labelledby="inhands">
          <h2 id="inhands" class="mb-2 text-lg font-semibold">{t("hand.inYourHands")}</h2>
          <ul class="flex flex-col gap-2">
            {#each hand.data.in_your_hands as line (line.id + line.locale)}
              <li class="sheet px-4 py-3 {line.state ? 'border-s-4 border-s-straw' : ''}">
                <a class="font-serif text-lg font-semibold" href={place(line)}>{line.title}</a>
                <span class="text-sm text-moss"
                  >{line.type}, {line.locale} · {t("hand.from", { by: line.by })}</span
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
        <h2 id="yours" class="mb-2 text-lg font-semibold">{t("hand.yours")}</h2>
        {#if hand.data.yours.length}
          <EntryTable lines={hand.data.yours} label={t("hand.yours")} />
        {:else}
          <p class="text-moss">{t("hand.yoursNone")} <a href="/entries?start=yes">{t("hand.start")}</a></p>
        {/if}
      </section>
    </div>
    <div class="flex flex-col gap-6">
      <section aria-labelledby="next">
        <h2 id="next" class="mb-2 text-lg font-semibold">{t("hand.next")}</h2>
        <ol class="flex flex-col gap-2 border-s-2 border-slate ps-3">
          {#each hand.data.next_out as dispatch (dispatch.id)}
            <li>
              <span class="text-sm font-semibold text-slate">{when(dispatch.instant)}</span><br />
              <a href="/timetable/{dispatch.id}">{dispatch.name}</a>
            </li>
          {:else}
            <li class="text-moss">{t("hand.nextNone")}</li>
          {/each}
        </ol>
      </section>
      {#if hand.data.with_others.length}
        <section aria-labelledby="withothers">
          <h2 id="withothers" class="mb-2 text-lg font-semibold">{t("hand.withOthers")}</h2>
          <ul class="flex flex-col gap-2">
            {#each hand.data.with_others as line (line.id + line.locale)}
              <li class="sheet px-3 py-2">
                <a class="font-semibold" href={place(line)}>{line.title}</a>
                <p class="text-sm text-moss">
                  {t("hand.with", { who: line.who.join(", ") })}
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
      {#if hand.data.you_wait_for.length}
        <section aria-labelledby="waitfor">
          <h2 id="waitfor" class="mb-2 text-lg font-semibold">{t("hand.waitFor")}</h2>
          <ul class="flex flex-col gap-2">
            {#each hand.data.you_wait_for as line (line.id + line.locale)}
              <li class="sheet px-3 py-2">
                <a class="font-semibold" href={place(line)}>{line.title}</a>
                <p class="text-sm text-moss">
                  {t("hand.with", { who: line.who.join(", ") || t("hand.nobody") })} · {t("hand.since", {
                    when: when(line.at),
                  })}
                </p>
              </li>
            {/each}
          </ul>
        </section>
      {/if}
    </div>
  </div>
{/if}
