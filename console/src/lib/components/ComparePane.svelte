<script lang="ts">
  import Diff from "./Diff.svelte";
  import Trouble from "./Trouble.svelte";
  import Waiting from "./Waiting.svelte";
  import type { Entry } from "../api";
  import { t } from "../i18n";
  import { compareQuery } from "../queries";
  import { session } from "../state/session.svelte";

  interface Props {
    entry: Entry;
    before?: string;
    after?: string;
  }
  let { entry, before = $bindable("release"), after = $bindable("draft") }: Props = $props();
  const found = compareQuery(
    () => entry.id,
    () => entry.locale,
    () => before,
    () => after,
    () => entry.etag + entry.rail.map((bead) => bead.revision).join(),
  );
  const numbers = $derived(
    Array.from({ length: entry.revision?.number ?? 0 }, (_, n) => String(n + 1)).reverse(),
  );
  const stages = $derived(entry.rail.filter((bead) => bead.state !== "none").map((bead) => bead.stage));
  const beside = $derived([
    ...entry.strands.filter((one) => one.open).map((one) => `strand:${one.name}`),
    ...entry.locales
      .filter((one) => one.exists && one.locale !== entry.locale)
      .map((one) => `${one.locale}@draft`),
  ]);

  function label(name: string): string {
    if (name.startsWith("strand:")) return t("compare.strand", { name: name.slice(7) });
    const [locale, side] = name.split("@");
    if (side) return t("compare.edition", { locale: session.locale(locale!)?.name ?? locale });
    return /^\d+$/.test(name) ? t("compare.revision", { number: name }) : t(`compare.${name}`);
  }
</script>

<div class="flex flex-wrap items-center gap-2 pb-3">
  <label class="flex items-center gap-2"
    >{t("compare.before")}
    <select class="field w-auto" bind:value={before}>
      {#each [...new Set(["release", ...stages, "draft", ...beside, ...numbers])] as name (name)}<option
          value={name}>{label(name)}</option
        >{/each}
    </select></label
  >
  <label class="flex items-center gap-2"
    >{t("compare.after")}
    <select class="field w-auto" bind:value={after}>
      {#each [...new Set(["draft", ...stages, ...beside, ...numbers])] as name (name)}<option value={name}
          >{label(name)}</option
        >{/each}
    </select></label
  >
</div>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting lines={3} />
{:else}
  <p class="pb-3 text-sm text-moss">{found.data.before.label} → {found.data.after.label}</p>
  {#if !found.data.fields.length}
    <p>{t("compare.same")}</p>
  {:else}
    <p class="pb-2 font-semibold">{t("compare.changes", { count: found.data.fields.length })}</p>
  {/if}
  {#each found.data.fields as field (field.field)}
    <section class="pb-4">
      <h2 class="font-sans pb-1 font-semibold text-moss">{field.label}</h2>
      <Diff parts={field.parts} lang={entry.locale} />
    </section>
  {/each}
{/if}
