<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Bureau } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Alert from "../../ui/Alert.svelte";
  import Button from "../../ui/Button.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import BureauForm from "./BureauForm.svelte";
  import { bureausQuery } from "./queries";

  const bureaus = bureausQuery();
  const queries = useQueryClient();
  let changing = $state.raw<Bureau | null>(null);
  /** Grows when the form is to begin anew. */
  let turn = $state(0);
  let secret = $state.raw<{ name: string; words: string } | null>(null);
  let asked = $state.raw<{ id: number; said: string; well: boolean } | null>(null);

  function fill(one: Bureau | null): void {
    changing = one;
    turn++;
  }

  async function looked(): Promise<void> {
    await queries.invalidateQueries({ queryKey: ["bureaus"] });
    await session.look();
  }

  async function kept(made: Bureau, words: string): Promise<void> {
    toasts.say(t("bureausPage.kept", { name: made.name }));
    if (words) secret = { name: made.name, words };
    fill(null);
    await looked();
  }

  async function attempt(one: Bureau): Promise<void> {
    asked = { id: one.id, said: t("bureausPage.trying"), well: true };
    try {
      const found = await sure(api.POST("/api/bureaus/{id}/try", { params: { path: { id: one.id } } }));
      const said = found.answers ? "bureausPage.answers" : "bureausPage.doesNot";
      asked = { id: one.id, said: t(said, { name: one.name, trouble: found.trouble }), well: found.answers };
      await queries.invalidateQueries({ queryKey: ["bureaus"] });
    } catch (caught) {
      asked = null;
      toasts.wrong(caught);
    }
  }

  async function renew(one: Bureau): Promise<void> {
    if (!confirm(t("bureausPage.sureSecret", { name: one.name }))) return;
    try {
      const made = await sure(api.POST("/api/bureaus/{id}/secret", { params: { path: { id: one.id } } }));
      secret = { name: one.name, words: made.secret };
    } catch (caught) {
      toasts.wrong(caught);
    }
  }

  async function end(one: Bureau): Promise<void> {
    if (!confirm(t("bureausPage.sure", { name: one.name }))) return;
    try {
      await sure(api.DELETE("/api/bureaus/{id}", { params: { path: { id: one.id } } }));
      toasts.say(t("bureausPage.ended", { name: one.name }));
      if (changing?.id === one.id) fill(null);
      await looked();
    } catch (caught) {
      toasts.wrong(caught);
    }
  }

  /** What a bureau is known by, in one line. */
  function facts(one: Bureau): string {
    const codes = Object.entries(one.codes).map(([ours, theirs]) => `${ours} → ${theirs}`);
    return [
      one.kind === "folder"
        ? t("bureausPage.kindFolder")
        : t(one.has_key ? "bureausPage.withKey" : "bureausPage.withoutKey"),
      t("bureausPage.jobs", { count: one.jobs }) +
        (one.open ? `, ${t("bureausPage.open", { count: one.open })}` : ""),
      codes.join(", "),
      one.rates.currency ? t("bureausPage.asks", one.rates) : "",
    ]
      .filter(Boolean)
      .join(" · ");
  }

  /** What it said that it translates. */
  function offer(one: Bureau): string {
    if (!one.offered_at) return t("bureausPage.neverAsked");
    if (!one.pairs.length) return t("bureausPage.offersAny");
    const from = [...new Set(one.pairs.map((pair) => pair.source))];
    const into = (source: string) =>
      one.pairs.filter((pair) => pair.source === source).map((pair) => pair.target);
    return t("bureausPage.offers", {
      pairs: from.map((source) => `${source} → ${into(source).join(", ")}`).join("; "),
      at: when(one.offered_at),
    });
  }
</script>

<svelte:head><title>{t("bureausPage.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("bureausPage.title")}</h1>
<p class="max-w-3xl pb-4 text-moss">{t("bureausPage.about")}</p>
{#if secret}
  <div class="max-w-4xl pb-4">
    <Alert role="status">
      <p>{t("bureausPage.secret", { name: secret.name })}</p>
      <p class="flex flex-wrap items-center gap-3 pt-1">
        <code class="break-all" dir="ltr">{secret.words}</code>
        <Button onclick={() => (secret = null)}>{t("bureausPage.haveIt")}</Button>
      </p>
    </Alert>
  </div>
{/if}
{#if bureaus.error}<Trouble error={bureaus.error} />
{:else if !bureaus.data}<Waiting />
{:else}
  <div class="grid max-w-6xl gap-6 lg:grid-cols-[minmax(0,1fr)_24rem]">
    <ul class="flex flex-col gap-2" aria-label={t("bureausPage.title")}>
      {#each bureaus.data.items as one (one.id)}
        <li class="sheet flex flex-col gap-2 px-4 py-3">
          <div>
            <p class="font-semibold">{one.name}</p>
            <p class="text-sm break-all text-moss" dir="ltr">{one.url}</p>
            <p class="text-sm text-moss">{facts(one)}</p>
            <p class="text-sm text-moss">{offer(one)}</p>
            {#each Object.entries(one.lacking) as [tag, why] (tag)}<p class="text-sm">
                <span class="font-semibold">{tag}:</span>
                {why}
              </p>{/each}
            {#if asked?.id === one.id}<p class={["text-sm", !asked.well && "font-semibold"]} role="status">
                {asked.said}
              </p>{/if}
          </div>
          <div class="flex flex-wrap gap-2">
            <Button onclick={() => attempt(one)}
              >{t("bureausPage.try")}<span class="sr-only"> {one.name}</span></Button
            >
            <Button onclick={() => fill(one)}
              >{t("bureausPage.change")}<span class="sr-only"> {one.name}</span></Button
            >
            {#if one.kind !== "folder"}<Button onclick={() => renew(one)}
                >{t("bureausPage.newSecret")}<span class="sr-only"> {one.name}</span></Button
              >{/if}
            <Button onclick={() => end(one)}
              >{t("bureausPage.end")}<span class="sr-only"> {one.name}</span></Button
            >
          </div>
        </li>
      {:else}<li class="text-moss">{t("bureausPage.none")}</li>{/each}
    </ul>
    {#key turn}<BureauForm {changing} onKept={kept} onBack={() => fill(null)} />{/key}
  </div>
{/if}
