<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure, type Bureau } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import BureauRates from "./BureauRates.svelte";
  import { bureausQuery } from "./queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";

  const bureaus = bureausQuery();
  const queries = useQueryClient();
  const locales = $derived(session.setup?.locales ?? []);
  let changing = $state.raw<Bureau | null>(null);
  let name = $state("");
  let url = $state("");
  let key = $state("");
  let noKey = $state(false);
  let codes = $state<Record<string, string>>({});
  const FREE: Bureau["rates"] = { currency: "", word: "0", locales: {}, shares: {} };
  let rates = $state.raw(FREE);
  let error = $state<unknown>(null);
  let busy = $state(false);
  let asked = $state.raw<{ id: number; said: string; well: boolean } | null>(null);

  function fill(one: Bureau | null): void {
    changing = one;
    [name, url, key, noKey, error] = [one?.name ?? "", one?.url ?? "", "", false, null];
    codes = { ...one?.codes };
    rates = one?.rates ?? FREE;
  }

  function given(): Record<string, string> {
    return Object.fromEntries(Object.entries(codes).filter(([, code]) => code.trim()));
  }

  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    error = null;
    busy = true;
    try {
      const fields = { name, url, codes: given(), rates };
      const made = changing
        ? await sure(
            api.PATCH("/api/bureaus/{id}", {
              params: { path: { id: changing.id } },
              body: { ...fields, ...(key || noKey ? { key: noKey ? "" : key } : {}) },
            }),
          )
        : await sure(api.POST("/api/bureaus", { body: { ...fields, key } }));
      toasts.say(t("bureausPage.kept", { name: made.name }));
      fill(null);
      await queries.invalidateQueries({ queryKey: ["bureaus"] });
      await session.look();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  async function attempt(one: Bureau): Promise<void> {
    asked = { id: one.id, said: t("bureausPage.trying"), well: true };
    try {
      const found = await sure(api.POST("/api/bureaus/{id}/try", { params: { path: { id: one.id } } }));
      const said = found.answers ? "bureausPage.answers" : "bureausPage.doesNot";
      asked = { id: one.id, said: t(said, { name: one.name, trouble: found.trouble }), well: found.answers };
    } catch (caught) {
      asked = null;
      toasts.wrong(caught);
    }
  }

  async function end(one: Bureau): Promise<void> {
    if (!confirm(t("bureausPage.sure", { name: one.name }))) return;
    try {
      await sure(api.DELETE("/api/bureaus/{id}", { params: { path: { id: one.id } } }));
      toasts.say(t("bureausPage.ended", { name: one.name }));
      if (changing?.id === one.id) fill(null);
      await queries.invalidateQueries({ queryKey: ["bureaus"] });
      await session.look();
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

<svelte:head><title>{t("bureausPage.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("bureausPage.title")}</h1>
<p class="max-w-3xl pb-4 text-moss">{t("bureausPage.about")}</p>
{#if bureaus.error}<Trouble error={bureaus.error} />
{:else if !bureaus.data}<Waiting />
{:else}
  <div class="grid max-w-6xl gap-6 lg:grid-cols-[minmax(0,1fr)_24rem]">
    <ul class="flex flex-col gap-2" aria-label={t("bureausPage.title")}>
      {#each bureaus.data.items as one (one.id)}
        <li class="sheet flex flex-wrap items-center gap-3 px-4 py-3">
          <div class="min-w-0 flex-1 basis-64">
            <p class="font-semibold">{one.name}</p>
            <p class="text-sm break-all text-moss" dir="ltr">{one.url}</p>
            <p class="text-sm text-moss">
              {one.has_key ? t("bureausPage.withKey") : t("bureausPage.withoutKey")} · {t(
                "bureausPage.jobs",
                { count: one.jobs },
              )}{#if one.open}, {t("bureausPage.open", {
                  count: one.open,
                })}{/if}{#if Object.keys(one.codes).length}&nbsp;· {Object.entries(one.codes)
                  .map(([ours, theirs]) => `${ours} → ${theirs}`)
                  .join(", ")}{/if}{#if one.rates.currency}&nbsp;· {t("bureausPage.asks", one.rates)}{/if}
            </p>
            {#if asked?.id === one.id}<p class={["text-sm", !asked.well && "font-semibold"]} role="status">
                {asked.said}
              </p>{/if}
          </div>
          <Button onclick={() => attempt(one)}
            >{t("bureausPage.try")}<span class="sr-only"> {one.name}</span></Button
          >
          <Button onclick={() => fill(one)}
            >{t("bureausPage.change")}<span class="sr-only"> {one.name}</span></Button
          >
          <Button onclick={() => end(one)}
            >{t("bureausPage.end")}<span class="sr-only"> {one.name}</span></Button
          >
        </li>
      {:else}<li class="text-moss">{t("bureausPage.none")}</li>{/each}
    </ul>
    <form class="sheet flex flex-col gap-3 p-4" onsubmit={keep}>
      <h2 class="text-lg font-semibold">
        {changing ? t("bureausPage.changing", { name: changing.name }) : t("bureausPage.new")}
      </h2>
      <label class="flex flex-col gap-1 text-sm"
        >{t("bureausPage.name")}<Input required bind:value={name} /></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >{t("bureausPage.url")}<Input
          type="url"
          required
          dir="ltr"
          placeholder={t("bureausPage.urlExample")}
          bind:value={url}
        /></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >{t("bureausPage.key")}<Input type="password" autocomplete="off" disabled={noKey} bind:value={key} />
        <span class="text-moss"
          >{changing?.has_key ? t("bureausPage.keyKept") : t("bureausPage.keyAbout")}</span
        ></label
      >
      {#if changing?.has_key}
        <label class="flex items-center gap-2 text-sm"
          ><Checkbox bind:checked={noKey} />{t("bureausPage.noKey")}</label
        >
      {/if}
      <fieldset class="grid grid-cols-2 gap-2 text-sm">
        <legend class="pb-1">{t("bureausPage.codes")}</legend>
        {#each locales as locale (locale.tag)}
          <label class="flex items-center gap-2"
            ><span class="w-10">{locale.tag}</span><Input
              class="min-w-0 flex-1"
              placeholder={locale.tag}
              maxlength={35}
              dir="ltr"
              bind:value={codes[locale.tag]}
            /></label
          >
        {/each}
      </fieldset>
      <BureauRates bind:rates />
      {#if error}<Trouble {error} />{/if}
      <div class="flex gap-2">
        <Button look="main" type="submit" disabled={busy || !name.trim() || !url.trim()}
          >{changing ? t("bureausPage.keep") : t("bureausPage.add")}</Button
        >
        {#if changing}<Button onclick={() => fill(null)}>{t("bureausPage.back")}</Button>{/if}
      </div>
    </form>
  </div>
{/if}
