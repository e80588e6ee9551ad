<script lang="ts">
  import type { Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Select from "../../ui/Select.svelte";

  interface Props {
    entry: Entry;
    before: string;
    after: string;
    onChoose: (side: "before" | "after", name: string) => void;
  }
  let { entry, before, after, onChoose }: Props = $props();
  const numbers = $derived(
    Array.from({ length: entry.revision?.number ?? 0 }, (_, n) => String(n + 1)).reverse(),
  );
  /** What whoever looks signed off last, so that only what is new since has to be read. */
  const signed = $derived(entry.signed_before ? [String(entry.signed_before.revision)] : []);
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
    // With a plus, that of the shared fields is named beside it.
    const [number, shared] = name.split("+");
    if (shared) return t("compare.withShared", { number, shared });
    if (/^\d+$/.test(number!)) {
      const mine = entry.signed_before?.revision === Number(number);
      return t(mine ? "compare.signedBefore" : "compare.revision", { number });
    }
    const stage = entry.rail.find((bead) => bead.stage === name);
    return stage && !["draft", "release"].includes(name)
      ? t("compare.stage", { stage: stage.label })
      : t(`compare.${name}`);
  }
</script>

<div class="flex flex-wrap items-center gap-2 pb-3">
  <label class="flex items-center gap-2"
    >{t("compare.before")}
    <Select class="w-auto" value={before} onchange={(event) => onChoose("before", event.currentTarget.value)}>
      {#each [...new Set( ["release", ...signed, ...stages, "draft", ...beside, ...numbers, before] )] as name (name)}<option
          value={name}>{label(name)}</option
        >{/each}
    </Select></label
  >
  <label class="flex items-center gap-2"
    >{t("compare.after")}
    <Select class="w-auto" value={after} onchange={(event) => onChoose("after", event.currentTarget.value)}>
      {#each [...new Set(["draft", ...stages, ...beside, ...numbers, after])] as name (name)}<option
          value={name}>{label(name)}</option
        >{/each}
    </Select></label
  >
</div>
