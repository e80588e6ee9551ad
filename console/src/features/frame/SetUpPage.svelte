<script lang="ts">
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { setUpPlaces } from "./places";
  import Button from "../../ui/Button.svelte";

  const types = $derived(session.setup?.types ?? []);
  const sets = $derived(session.setup?.sets ?? []);

  function uses(name: string): string {
    return types
      .filter((type) => type.sets?.includes(name))
      .map((type) => type.label)
      .join(", ");
  }
</script>

<svelte:head><title>{t("setUp.title")} – {t("app.name")}</title></svelte:head>
<h1 class="pb-3 text-2xl font-semibold">{t("setUp.title")}</h1>
{#if !session.may("configure")}<p class="pb-3 text-moss">{t("setUp.onlyLook")}</p>{/if}
<ul class="mb-6 flex flex-wrap gap-2">
  {#each setUpPlaces() as place (place.to)}<li><Button href={place.to}>{t(place.key)}</Button></li>{/each}
</ul>
<div class="grid gap-8 lg:grid-cols-2">
  <section aria-labelledby="types">
    <div class="flex items-center justify-between pb-2">
      <h2 id="types" class="text-lg font-semibold">{t("setUp.types")}</h2>
      {#if session.may("configure")}<Button href="/set-up/types/new">{t("setUp.newType")}</Button>{/if}
    </div>
    <ul class="flex flex-col gap-2">
      {#each types as type (type.name)}
        <li class="sheet px-3 py-2">
          <a class="font-semibold" href="/set-up/types/{type.name}">{type.label}</a>
          <span class="text-sm text-moss"
            >{t("setUp.fields", { count: type.fields.length })} · {t("setUp.version", {
              version: type.version,
            })}</span
          >
          {#if type.help}<p class="text-sm text-moss"><bdi>{type.help}</bdi></p>{/if}
        </li>
      {/each}
    </ul>
  </section>
  <section aria-labelledby="sets">
    <div class="flex items-center justify-between pb-2">
      <h2 id="sets" class="text-lg font-semibold">{t("setUp.sets")}</h2>
      {#if session.may("configure")}<Button href="/set-up/field-sets/new">{t("setUp.newSet")}</Button>{/if}
    </div>
    <p class="pb-2 text-sm text-moss">{t("setUp.setsAbout")}</p>
    <ul class="flex flex-col gap-2">
      {#each sets as one (one.name)}
        <li class="sheet px-3 py-2">
          <a class="font-semibold" href="/set-up/field-sets/{one.name}">{one.label}</a>
          <span class="text-sm text-moss">{t("setUp.fields", { count: one.fields.length })}</span>
          <p class="text-sm text-moss">{t("setUp.usedBy", { types: uses(one.name) || t("setUp.nobody") })}</p>
        </li>
      {:else}
        <li class="text-moss">{t("setUp.noSets")}</li>
      {/each}
    </ul>
  </section>
</div>
