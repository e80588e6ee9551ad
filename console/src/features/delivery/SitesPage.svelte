<script lang="ts">
  import "../../messages/setup";
  import Trouble from "../../ui/Trouble.svelte";
  import { api, sure, type CropSpec, type SiteSpec, type SiteTrial } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { stageNames } from "../../lib/names";
  import { session } from "../../lib/state/session.svelte";
  import EntryPicker from "../content/fields/EntryPicker.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import CheckOutline from "flowbite-svelte-icons/CheckOutline.svelte";
  import CloseCircleOutline from "flowbite-svelte-icons/CloseCircleOutline.svelte";

  interface Draft extends Omit<SiteSpec, "addresses"> {
    rows: { type: string; address: string }[];
  }
  function drafted(site: SiteSpec): Draft {
    const rows = Object.entries(site.addresses).map(([type, address]) => ({ type, address }));
    return { name: site.name, label: site.label, stage: site.stage, rows };
  }
  let sites = $state<Draft[]>((session.setup?.sites ?? []).map(drafted));
  let crops = $state<CropSpec[]>(structuredClone($state.snapshot(session.setup?.crops ?? [])));
  let trials = $state<Record<number, SiteTrial>>({});
  let trying = $state<number | null>(null);
  let error = $state<unknown>(null);
  let busy = $state(false);
  let sample = $state<{ id: string; title: string } | null>(null);
  const may = $derived(session.may("configure"));
  const types = $derived(
    (session.setup?.types ?? []).filter((one) => one.site || one.fields.some((f) => f.kind === "slug")),
  );
  const stages = $derived([...stageNames().keys()]);

  function spec(site: Draft): SiteSpec {
    return {
      name: site.name,
      label: site.label,
      stage: site.stage,
      addresses: Object.fromEntries(
        site.rows.filter((row) => row.address).map((row) => [row.type, row.address]),
      ),
    };
  }

  async function attempt(n: number): Promise<void> {
    trying = n;
    error = null;
    try {
      trials[n] = await sure(
        api.POST("/api/sites/check", {
          body: { site: spec(sites[n]!), entry: sample?.id ?? "", locale: "" },
        }),
      );
    } catch (caught) {
      error = caught;
    } finally {
      trying = null;
    }
  }

  async function keep(): Promise<void> {
    busy = true;
    error = null;
    try {
      await sure(api.PUT("/api/sites", { body: { sites: sites.map(spec) } }));
      await session.look();
      toasts.say(t("sites.kept"));
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  async function keepCrops(): Promise<void> {
    busy = true;
    error = null;
    try {
      await sure(api.PUT("/api/crops", { body: { crops: $state.snapshot(crops) } }));
      await session.look();
      toasts.say(t("crops.kept"));
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  function add(): void {
    sites.push({
      name: `site${sites.length + 1}`,
      label: "",
      stage: "draft",
      rows: [{ type: "*", address: "https://" }],
    });
  }
</script>

<svelte:head><title>{t("sites.title")} – {t("app.name")}</title></svelte:head>
<h1 class="pb-1 text-2xl font-semibold">{t("sites.title")}</h1>
<p class="max-w-3xl pb-4 text-moss">{t("sites.about")}</p>
{#if !may}<p class="pb-3 text-moss">{t("setUp.onlyLook")}</p>{/if}
{#if error}<div class="pb-4"><Trouble {error} /></div>{/if}
<div class="flex max-w-5xl flex-col gap-5">
  {#each sites as site, n (n)}
    <section class="sheet flex flex-col gap-3 p-4" aria-label={site.label || site.name}>
      <div class="flex flex-wrap items-end gap-3">
        <label class="flex flex-col text-sm"
          >{t("sites.name")}<Input bind:value={site.name} readonly={!may} /></label
        >
        <label class="flex flex-col text-sm"
          >{t("sites.label")}<Input bind:value={site.label} readonly={!may} /></label
        >
        <label class="flex flex-col text-sm"
          >{t("sites.stage")}
          <Select bind:value={site.stage} disabled={!may}>
            {#each stages as one (one)}<option value={one}>{one}</option>{/each}
          </Select></label
        >
        {#if may}<Button class="ms-auto" onclick={() => sites.splice(n, 1)}
            >{t("sites.remove", { name: site.label || site.name })}</Button
          >{/if}
      </div>
      {#each site.rows as row, at (at)}
        <div class="flex flex-wrap items-end gap-2">
          <label class="flex flex-col text-sm"
            >{t("sites.type")}
            <Select bind:value={row.type} disabled={!may}>
              <option value="*">{t("sites.any")}</option>
              {#each types as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
            </Select></label
          >
          <label class="flex min-w-48 flex-1 flex-col text-sm"
            >{t("sites.address")}<Input bind:value={row.address} readonly={!may} dir="ltr" /></label
          >
          {#if may && site.rows.length > 1}<Button
              icon={CloseOutline}
              label={t("sites.removeAddress")}
              onclick={() => site.rows.splice(at, 1)}
            />{/if}
        </div>
      {/each}
      <p class="text-sm text-moss">
        {t("sites.slots")} <code>{"{path} {locale} {slug} {id} {type} {field:…}"}</code>
      </p>
      {#if may}
        <div class="flex flex-wrap gap-2">
          <Button onclick={() => site.rows.push({ type: types[0]?.name ?? "*", address: "" })}
            >{t("sites.addAddress")}</Button
          >
          <Button disabled={trying !== null} onclick={() => attempt(n)}
            >{trying === n ? t("sites.trying") : t("sites.try")}</Button
          >
        </div>
      {/if}
      {#if trials[n]}
        {@const trial = trials[n]!}
        <div role="status">
          <p class="pb-1 text-sm break-all">
            {t("sites.tried", { title: trial.title })} <span dir="ltr">{trial.url}</span>
          </p>
          <ul class="flex flex-col gap-1">
            {#each trial.findings as one (one.code)}
              <li>
                <span class={one.well ? "text-hedge" : "font-semibold text-straw"}
                  >{#if one.well}<CheckOutline class="inline size-5 text-hedge" />{:else}<CloseCircleOutline
                      class="inline size-5 text-straw"
                    />{/if}
                  {t(one.well ? "sites.well" : "sites.wrong")}
                  {one.what}</span
                >
                {#if one.remedy}<p class="ps-5 text-sm">{one.remedy}</p>{/if}
              </li>
            {/each}
          </ul>
        </div>
      {/if}
    </section>
  {:else}<p class="sheet p-4">{t("sites.none")}</p>{/each}
  {#if may}
    <div class="flex flex-wrap items-end gap-3">
      <Button onclick={add}>{t("sites.add")}</Button>
      <Button look="main" disabled={busy} onclick={keep}>{t("sites.keep")}</Button>
      <div class="min-w-64 text-sm">
        {#if sample}<span class="flex items-center gap-2"
            >{sample.title}<Button onclick={() => (sample = null)}>{t("sites.anySample")}</Button></span
          >{:else}<EntryPicker
            label={t("sites.sample")}
            onChoose={(one) => (sample = { id: one.id, title: one.title })}
          />{/if}
      </div>
    </div>
  {/if}
</div>
<section class="max-w-5xl pt-8" aria-labelledby="crops">
  <h2 id="crops" class="text-lg font-semibold">{t("crops.title")}</h2>
  <p class="pb-3 text-sm text-moss">{t("crops.about")}</p>
  <div class="flex flex-col gap-2">
    {#each crops as crop, n (n)}
      <div class="sheet flex flex-wrap items-end gap-2 p-2">
        <label class="flex flex-col text-sm"
          >{t("crops.name")}<Input class="w-28!" bind:value={crop.name} readonly={!may} /></label
        >
        <label class="flex flex-col text-sm"
          >{t("crops.label")}<Input class="w-32!" bind:value={crop.label} readonly={!may} /></label
        >
        <label class="flex flex-col text-sm"
          >{t("crops.width")}<Input
            class="w-24!"
            type="number"
            bind:value={crop.width}
            readonly={!may}
          /></label
        >
        <label class="flex flex-col text-sm"
          >{t("crops.height")}<Input
            class="w-24!"
            type="number"
            bind:value={crop.height}
            readonly={!may}
          /></label
        >
        <label class="flex min-w-36 flex-1 flex-col text-sm"
          >{t("crops.use")}<Input bind:value={crop.use} readonly={!may} /></label
        >
        {#if may}<Button
            icon={CloseOutline}
            label={t("crops.remove", { name: crop.label || crop.name })}
            onclick={() => crops.splice(n, 1)}
          />{/if}
      </div>
    {/each}
    {#if may}
      <div class="flex gap-2">
        <Button
          onclick={() =>
            crops.push({ name: `crop${crops.length + 1}`, label: "", width: 800, height: 600, use: "" })}
          >{t("crops.add")}</Button
        >
        <Button look="main" disabled={busy} onclick={keepCrops}>{t("crops.keep")}</Button>
      </div>
    {/if}
  </div>
</section>
