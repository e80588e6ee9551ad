<script lang="ts">
  import "../../messages/exchange";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FileInput from "../../ui/FileInput.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { asItIs, Giving } from "./giving.svelte";
  import PackageItem from "./PackageItem.svelte";
  import SetUpFile from "./SetUpFile.svelte";
  import { backupsQuery, packagesQuery } from "./queries";

  /** What goes out of the house and comes in: packages of entries, set-up as a document, and the backups there are. */
  const queries = useQueryClient();
  const found = packagesQuery();
  const backups = backupsQuery();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["packages"] }));
  const giving = new Giving(acting);
  let types = $state<string[]>([]);
  let history = $state(true);
  let linked = $state(true);
  const WISHES = ["as_drafts", "new_ids", "leave", "definitions"] as const;
  let wish = $state({ as_drafts: false, new_ids: false, leave: false, definitions: false });

  const make = () =>
    acting.do(() =>
      sure(
        api.POST("/api/packages", { body: { types, history, linked, sections: [], entries: [], name: "" } }),
      ),
    );

  const give = (event: Event) =>
    giving.take(event, (file) =>
      sure(
        api.PUT("/api/packages/file", {
          params: { query: { name: file.name, ...wish } },
          ...asItIs(file, "application/zip"),
        } as never),
      ),
    );
</script>

<svelte:head><title>{t("exchange.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("exchange.title")}</h1>
<p class="max-w-3xl pb-4 text-moss">{t("exchange.about")}</p>
<div class="grid max-w-6xl items-start gap-6 lg:grid-cols-[minmax(0,1fr)_26rem]">
  <section class="flex flex-col gap-3" aria-labelledby="packages">
    <h2 id="packages" class="text-lg font-semibold">{t("exchange.packages")}</h2>
    {#if found.error}<Trouble error={found.error} />
    {:else if !found.data}<Waiting />
    {:else}
      <ul class="flex flex-col gap-2" aria-labelledby="packages">
        {#each found.data.items as one (one.id)}<PackageItem {one} />
        {:else}<li class="text-moss">{t("exchange.none")}</li>{/each}
      </ul>
    {/if}
    <h2 class="pt-4 text-lg font-semibold">{t("exchange.backups")}</h2>
    {#if backups.data}
      {#if backups.data.trouble}<p class="border-s-4 border-s-straw ps-3">{backups.data.trouble}</p>{/if}
      <ul class="flex flex-col gap-1 text-sm" aria-label={t("exchange.backups")}>
        {#each backups.data.items as one (one.name)}
          <li>
            {when(one.at)}
            <span class="text-moss">{one.name} · {t("exchange.bytes", { count: one.bytes })}</span>
          </li>
        {:else}<li class="text-moss">{t("exchange.noBackups")}</li>{/each}
      </ul>
    {/if}
  </section>
  <div class="flex flex-col gap-6">
    {#if acting.error}<Trouble error={acting.error} />{/if}
    <section class="sheet flex flex-col gap-3 p-4" aria-labelledby="exporting">
      <h2 id="exporting" class="text-lg font-semibold">{t("exchange.export")}</h2>
      <fieldset class="flex flex-col gap-1 text-sm">
        <legend class="pb-1">{t("exchange.which")}</legend>
        <div class="flex flex-wrap gap-x-4 gap-y-1">
          {#each session.setup?.types ?? [] as one (one.name)}
            <Checkbox checked={types.includes(one.name)} onchange={() => (types = toggled(types, one.name))}
              >{one.label}</Checkbox
            >
          {/each}
        </div>
      </fieldset>
      <p class="text-sm text-moss">{t(types.length ? "exchange.someTypes" : "exchange.allTypes")}</p>
      <Checkbox bind:checked={linked}>{t("exchange.linked")}</Checkbox>
      <Checkbox bind:checked={history}>{t("exchange.history")}</Checkbox>
      <Button look="main" class="self-start" disabled={acting.busy} onclick={make}
        >{t("exchange.make")}</Button
      >
    </section>
    <section class="sheet flex flex-col gap-3 p-4" aria-labelledby="importing">
      <h2 id="importing" class="text-lg font-semibold">{t("exchange.importTitle")}</h2>
      <p class="text-sm text-moss">{t("exchange.importAbout")}</p>
      {#each WISHES as name (name)}
        <Checkbox bind:checked={wish[name]}>{t(`exchange.wish.${name}`)}</Checkbox>
      {/each}
      <FileInput accept="application/zip,.zip" class="self-start" disabled={acting.busy} onchange={give}
        >{t("exchange.choose")}</FileInput
      >
      {#if giving.sending}<p role="status" class="text-sm">
          {t("exchange.sending", { name: giving.sending })}
        </p>{/if}
    </section>
    <SetUpFile />
  </div>
</div>
