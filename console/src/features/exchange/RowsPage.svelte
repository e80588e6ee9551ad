<script lang="ts">
  import "../../messages/exchange";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import FileInput from "../../ui/FileInput.svelte";
  import Select from "../../ui/Select.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { asItIs, Giving } from "./giving.svelte";
  import PackageItem from "./PackageItem.svelte";
  import { mappingsQuery, packagesQuery } from "./queries";

  /** Entries from tables and pages: a file is given, what its columns become is proposed, changed and agreed to, and undone. */
  const queries = useQueryClient();
  const found = packagesQuery();
  const kept = mappingsQuery();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["packages"] }));
  const giving = new Giving(acting);
  const types = $derived((session.setup?.types ?? []).filter((one) => !one.retired && !one.read_only));
  const given = $derived((found.data?.items ?? []).filter((one) => one.format !== "package"));
  let type = $state("");
  let locale = $state("");
  let mapping = $state("");

  const give = (event: Event) =>
    giving.take(event, (file) =>
      sure(
        api.PUT("/api/packages/rows", {
          params: { query: { name: file.name, type, locale, mapping } },
          ...asItIs(file, "application/octet-stream"),
        } as never),
      ),
    );
</script>

<svelte:head><title>{t("exchange.rows.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/entries">{t("list.title")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("exchange.rows.title")}</h1>
<p class="max-w-3xl pb-4 text-moss">{t("exchange.rows.about")}</p>
<div class="grid max-w-6xl items-start gap-6 lg:grid-cols-[minmax(0,1fr)_22rem]">
  <section class="flex flex-col gap-3" aria-labelledby="given">
    <h2 id="given" class="text-lg font-semibold">{t("exchange.rows.given")}</h2>
    {#if found.error}<Trouble error={found.error} />
    {:else if !found.data}<Waiting />
    {:else}
      <ul class="flex flex-col gap-2" aria-labelledby="given">
        {#each given as one (one.id)}<PackageItem {one} />
        {:else}<li class="text-moss">{t("exchange.rows.none")}</li>{/each}
      </ul>
    {/if}
  </section>
  <section class="sheet flex flex-col gap-3 p-4" aria-labelledby="giving">
    <h2 id="giving" class="text-lg font-semibold">{t("exchange.rows.give")}</h2>
    {#if acting.error}<Trouble error={acting.error} />{/if}
    {#if kept.data?.items.length}
      <label class="flex flex-col gap-1 text-sm"
        >{t("exchange.rows.byMapping")}
        <Select bind:value={mapping}>
          <option value="">{t("exchange.rows.proposed")}</option>
          {#each kept.data.items as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
        </Select>
      </label>
    {/if}
    {#if !mapping}
      <label class="flex flex-col gap-1 text-sm"
        >{t("exchange.rows.type")}
        <Select bind:value={type}>
          <option value="">{t("exchange.rows.likeliest")}</option>
          {#each types as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
        </Select>
      </label>
      <label class="flex flex-col gap-1 text-sm"
        >{t("exchange.rows.locale")}
        <Select bind:value={locale}>
          <option value="">{session.setup?.locales[0]?.name}</option>
          {#each (session.setup?.locales ?? []).slice(1) as one (one.tag)}<option value={one.tag}
              >{one.name}</option
            >{/each}
        </Select>
      </label>
    {/if}
    <FileInput
      accept=".csv,.tsv,.xlsx,.md,.markdown,.html,.htm,.zip"
      class="self-start"
      disabled={acting.busy}
      onchange={give}>{t("exchange.rows.choose")}</FileInput
    >
    {#if giving.sending}<p role="status" class="text-sm">
        {t("exchange.sending", { name: giving.sending })}
      </p>{/if}
    <p class="text-sm text-moss">{t("exchange.rows.files")}</p>
  </section>
</div>
