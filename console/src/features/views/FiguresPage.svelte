<script lang="ts">
  import "../../messages/figures";
  import { peopleQuery } from "../access/queries";
  import { day, t, when } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Select from "../../ui/Select.svelte";
  import Table from "../../ui/Table.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import Behind from "./figures/Behind.svelte";
  import Figure from "./figures/Figure.svelte";
  import { percent, plain, span, type Wanted } from "./figures/series";
  import { figuresQuery, sectionsQuery, type FiguresAsked } from "./queries";

  /** How the house works, in figures; each leads to the entries that it stands for. */
  let asked = $state<FiguresAsked>({ weeks: 13, type: "", section: "", locale: "", person: "" });
  let measure = $state<"median" | "ninetieth">("median");
  let wanted = $state<Wanted | null>(null);
  const found = figuresQuery(() => asked);
  const people = peopleQuery();
  const sections = sectionsQuery();
  const PERIODS = [4, 13, 26, 52];

  const stages = $derived(
    (found.data?.stages ?? []).map((one) => ({
      name: one.label,
      values: one.weeks.map((week) => week[measure]),
      onChoose: inWeek("stay", one.label, one.stage),
    })),
  );
  const weekOf = (n: number) => t("figures.weekOf", { day: day(found.data!.weeks[n]!) });

  function inWeek(figure: Wanted["figure"], title: string, stage = "") {
    return (n: number) =>
      (wanted = {
        title: `${title}, ${weekOf(n)}`,
        figure,
        stage,
        week: found.data!.weeks[n]!,
      });
  }
</script>

{#snippet head(names: string[])}
  <thead>
    <tr class="border-b text-moss">
      {#each names as name, n (name)}<th
          scope="col"
          class={["py-1 font-normal", n ? "text-end" : "text-start"]}>{name}</th
        >{/each}
    </tr>
  </thead>
{/snippet}

<svelte:head><title>{t("figures.title")} – {t("app.name")}</title></svelte:head>
<h1 class="pb-1 text-2xl font-semibold">{t("figures.title")}</h1>
<form class="flex flex-wrap items-baseline gap-2 pb-4" onsubmit={(event) => event.preventDefault()}>
  <span>{t("figures.ask.the")}</span>
  <Select inline aria-label={t("figures.ask.weeks")} bind:value={asked.weeks}>
    {#each PERIODS as weeks (weeks)}<option value={weeks}>{t("figures.ask.lastWeeks", { weeks })}</option
      >{/each}
  </Select>
  <span>{t("figures.ask.of")}</span>
  <Select inline aria-label={t("figures.ask.type")} bind:value={asked.type}>
    <option value="">{t("figures.ask.anyType")}</option>
    {#each session.setup?.types ?? [] as type (type.name)}<option value={type.name}>{type.label}</option
      >{/each}
  </Select>
  {#if sections.data?.length}
    <span>{t("figures.ask.in")}</span>
    <Select inline aria-label={t("figures.ask.section")} bind:value={asked.section}>
      <option value="">{t("figures.ask.anySection")}</option>
      {#each sections.data as one (one.id)}<option value={one.id}>{one.title}</option>{/each}
    </Select>
  {/if}
  <span>{t("figures.ask.inLanguage")}</span>
  <Select inline aria-label={t("figures.ask.language")} bind:value={asked.locale}>
    <option value="">{t("figures.ask.anyLanguage")}</option>
    {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option>{/each}
  </Select>
  {#if session.may("configure")}
    <span>{t("figures.ask.by")}</span>
    <Select inline aria-label={t("figures.ask.person")} bind:value={asked.person}>
      <option value="">{t("figures.ask.anyone")}</option>
      {#each people.data?.items ?? [] as one (one.handle)}<option value={one.handle}>{one.name}</option
        >{/each}
    </Select>
  {/if}
</form>

{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting lines={10} />
{:else}
  {@const data = found.data}
  <div class="grid items-start gap-4 xl:grid-cols-2" aria-busy={found.isFetching}>
    <div class="flex min-w-0 flex-col gap-4">
      <Figure
        id="stays"
        title={t("figures.stays.title")}
        about={t("figures.stays.about")}
        kind="line"
        weeks={data.weeks}
        series={stages}
        said={span}
      >
        {#if data.stages.length}
          <label class="flex items-baseline gap-2 text-sm"
            >{t("figures.stays.drawn")}
            <Select inline bind:value={measure}>
              <option value="median">{t("figures.median")}</option>
              <option value="ninetieth">{t("figures.ninetieth")}</option>
            </Select></label
          >
          <Table class="text-sm" aria-label={t("figures.stays.whole")}>
            {@render head([
              t("figures.stage"),
              t("figures.times"),
              t("figures.median"),
              t("figures.ninetieth"),
            ])}
            <tbody>
              {#each data.stages as one (one.stage)}
                <tr class="border-b last:border-0">
                  <th scope="row" class="py-1 text-start font-normal">{one.label}</th>
                  <td class="py-1 text-end tabular-nums"
                    ><Button
                      look="link"
                      onclick={() => (wanted = { title: one.label, figure: "stay", stage: one.stage })}
                      >{one.whole.count}<span class="sr-only"> {one.label}</span></Button
                    ></td
                  >
                  <td class="py-1 text-end tabular-nums">{span(one.whole.median)}</td>
                  <td class="py-1 text-end tabular-nums">{span(one.whole.ninetieth)}</td>
                </tr>
              {/each}
            </tbody>
          </Table>
        {/if}
      </Figure>
      <Figure
        id="releases"
        title={t("figures.releases.title")}
        about={t("figures.releases.about", {
          dispatches: data.releases.dispatches.reduce((a, b) => a + b, 0),
          late: data.releases.late.reduce((a, b) => a + b, 0),
        })}
        kind="bar"
        weeks={data.weeks}
        series={[
          {
            name: t("figures.releases.editions"),
            values: data.releases.editions,
            onChoose: inWeek("release", t("figures.releases.title")),
          },
          { name: t("figures.releases.late"), values: data.releases.late },
        ]}
        said={plain}
      >
        {#if data.releases.latest.length}
          <h3 class="font-semibold">{t("figures.releases.latest")}</h3>
          <ul class="flex flex-col gap-1 text-sm">
            {#each data.releases.latest.slice(0, 5) as one (one.id)}
              <li>
                <a href="/timetable/{one.id}">{one.name || t("list.untitled")}</a>
                <span class="text-moss"
                  >{t("figures.releases.lateBy", { span: span(one.seconds), when: when(one.due) })}</span
                >
              </li>
            {/each}
          </ul>
        {/if}
      </Figure>
      <Figure
        id="translated"
        title={t("figures.translated.title")}
        about={t(asked.section || asked.person ? "figures.translated.notHere" : "figures.translated.about")}
        kind="line"
        weeks={data.weeks}
        series={data.translated.map((one) => ({ name: one.name, values: one.weeks }))}
        said={percent}
      >
        {#if data.translated.length}
          <ul class="flex flex-col gap-1 text-sm" aria-label={t("figures.translated.now")}>
            {#each data.translated as one (one.locale)}
              <li>
                <bdi>{one.name}</bdi>: {t("figures.translated.words", {
                  current: one.current,
                  words: one.words,
                })}
              </li>
            {/each}
          </ul>
          <p class="text-sm"><a href="/translation">{t("figures.translated.behind")}</a></p>
        {/if}
      </Figure>
      <section class="sheet flex min-w-0 flex-col gap-2 p-4" aria-labelledby="bureaus">
        <h2 id="bureaus" class="text-lg font-semibold">{t("figures.bureaus.title")}</h2>
        <p class="text-sm text-moss">{t("figures.bureaus.about")}</p>
        {#if data.bureaus.length}
          <Table class="text-sm" aria-labelledby="bureaus">
            {@render head([
              t("figures.bureaus.who"),
              t("figures.bureaus.jobs"),
              t("figures.bureaus.words"),
              t("figures.median"),
              t("figures.ninetieth"),
              t("figures.bureaus.back"),
            ])}
            <tbody>
              {#each data.bureaus as one (one.name)}
                <tr class="border-b last:border-0">
                  <th scope="row" class="py-1 text-start font-normal"
                    >{one.name || t("figures.bureaus.own")}</th
                  >
                  <td class="py-1 text-end tabular-nums">{one.jobs}</td>
                  <td class="py-1 text-end tabular-nums">{one.words}</td>
                  <td class="py-1 text-end tabular-nums">{span(one.took.median)}</td>
                  <td class="py-1 text-end tabular-nums">{span(one.took.ninetieth)}</td>
                  <td class="py-1 text-end tabular-nums"
                    >{t("figures.bureaus.units", { back: one.sent_back, units: one.units })}</td
                  >
                </tr>
              {/each}
            </tbody>
          </Table>
          <p class="text-sm"><a href="/translation">{t("figures.bureaus.behind")}</a></p>
        {:else}<p class="py-6 text-moss">{t("figures.none")}</p>{/if}
        {#if data.machine.kept + data.machine.changed}
          <p class="text-sm">
            {t("figures.bureaus.machine", {
              kept: data.machine.kept,
              count: data.machine.kept + data.machine.changed,
            })}
          </p>
        {/if}
      </section>
    </div>
    <div class="flex min-w-0 flex-col gap-4">
      <section class="sheet flex min-w-0 flex-col gap-2 p-4" aria-labelledby="waiting">
        <div class="flex flex-wrap items-baseline gap-x-3">
          <h2 id="waiting" class="me-auto text-lg font-semibold">{t("figures.waiting.title")}</h2>
          {#if data.waiting.length}<Button
              look="link"
              class="text-sm"
              onclick={() => (wanted = { title: t("figures.waiting.title"), figure: "waiting" })}
              >{t("figures.all")}<span class="sr-only"> {t("figures.waiting.title")}</span></Button
            >{/if}
        </div>
        <p class="text-sm text-moss">{t("figures.waiting.about")}</p>
        <ol class="flex flex-col gap-2" aria-labelledby="waiting">
          {#each data.waiting.slice(0, 8) as one (`${one.id} ${one.locale} ${one.stage}`)}
            <li class="flex flex-wrap items-baseline gap-x-3 border-b pb-2 last:border-0">
              <a class="min-w-0 flex-1 basis-48 font-semibold" href="/entries/{one.id}/{one.locale}"
                >{one.title}</a
              >
              <span class="tabular-nums">{span(one.seconds)}</span>
              <span class="w-full text-sm text-moss"
                >{session.locale(one.locale)?.name ?? one.locale} · {one.label} · {one.assigned
                  ? t("figures.waiting.assigned", { who: one.assigned })
                  : one.whom.length
                    ? t("figures.waiting.for", { who: one.whom.join(", ") })
                    : t("figures.waiting.nobody")}</span
              >
            </li>
          {:else}<li class="py-6 text-moss">{t("figures.waiting.none")}</li>{/each}
        </ol>
      </section>
      <Figure
        id="returns"
        title={t("figures.returns.title")}
        about={t("figures.returns.about")}
        kind="bar"
        weeks={data.weeks}
        series={[
          {
            name: t("figures.returns.decided"),
            values: data.returns.decided,
            onChoose: inWeek("reviewed", t("figures.returns.decided")),
          },
          {
            name: t("figures.returns.back"),
            values: data.returns.sent_back,
            onChoose: inWeek("sent-back", t("figures.returns.back")),
          },
        ]}
        said={plain}
      >
        {#if data.returns.latest.length}
          <ul class="flex flex-col gap-2 text-sm" aria-label={t("figures.returns.back")}>
            {#each data.returns.latest.slice(0, 5) as one, n (n)}
              <li>
                <a href="/entries/{one.id}/{one.locale}">{one.title}</a>
                <span class="text-moss">{t("figures.returns.by", { who: one.by, when: when(one.at) })}</span>
                <q class="block">{one.reason}</q>
              </li>
            {/each}
          </ul>
        {/if}
      </Figure>
      <Figure
        id="following"
        title={t("figures.following.title")}
        about={t("figures.following.about")}
        kind="line"
        weeks={data.weeks}
        series={[
          {
            name: t("figures.median"),
            values: data.following.weeks.map((one) => one.median),
            onChoose: inWeek("following", t("figures.following.title")),
          },
          {
            name: t("figures.ninetieth"),
            values: data.following.weeks.map((one) => one.ninetieth),
            onChoose: inWeek("following", t("figures.following.title")),
          },
        ]}
        said={span}
      >
        <p class="text-sm">{t("figures.following.open", { count: data.following.open })}</p>
      </Figure>
    </div>
  </div>
  <p class="pt-3 text-sm text-moss">{t("figures.counted", { when: when(data.counted) })}</p>
{/if}
{#if wanted}
  {#key wanted}<Behind {wanted} {asked} onClose={() => (wanted = null)} />{/key}
{/if}
