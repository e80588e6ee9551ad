<script lang="ts">
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { t } from "../../lib/i18n";
  import { searchAndSharingQuery } from "./queries";
  import { session } from "../../lib/state/session.svelte";
  import Select from "../../ui/Select.svelte";

  let locale = $state("");
  const found = searchAndSharingQuery(() => locale);
</script>

<svelte:head><title>{t("search.pageTitle")} – {t("app.name")}</title></svelte:head>
<div class="flex flex-wrap items-end gap-3 pb-4">
  <div class="me-auto">
    <h1 class="text-2xl font-semibold">{t("search.pageTitle")}</h1>
    <p class="text-moss">{t("search.pageAbout")}</p>
  </div>
  <label class="flex flex-col text-sm"
    >{t("outline.locale")}
    <Select bind:value={locale}>
      <option value="">{t("search.allLocales")}</option>
      {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option>{/each}
    </Select></label
  >
</div>
{#if found.error && !found.data}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting lines={6} />
{:else}
  <ul class="flex max-w-4xl flex-col gap-2">
    {#each found.data.items as one (`${one.id}/${one.locale}`)}
      <li class="sheet px-3 py-2">
        <a class="font-semibold" lang={one.locale} dir="auto" href="/entries/{one.id}/{one.locale}"
          >{one.name}</a
        >
        <span class="text-sm text-moss"
          >{session.type(one.type)?.label} · {session.locale(one.locale)?.name}</span
        >
        <ul class="list-disc ps-5 text-sm">
          {#each one.checks as check, n (n)}<li>{check.text}</li>{/each}
        </ul>
      </li>
    {:else}<li class="sheet p-4">{t("search.allWell")}</li>{/each}
  </ul>
{/if}
