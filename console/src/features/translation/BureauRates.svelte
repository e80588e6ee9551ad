<script lang="ts">
  import "../../messages/setup";
  import type { Bureau } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import Input from "../../ui/Input.svelte";
  import { KINDS } from "./estimate";

  /** What a bureau asks for its work: by word, by language where that differs, and less of it for words that are known. */
  let { rates = $bindable() }: { rates: Bureau["rates"] } = $props();
  const amount = { inputmode: "decimal", dir: "ltr", maxlength: 12 } as const;

  /** An amount as it is meant; those who write a comma in it mean a point. */
  const meant = (typed: string) => typed.trim().replace(",", ".");

  function put(part: "locales" | "shares", key: string, typed: string): void {
    const others = Object.fromEntries(Object.entries(rates[part] ?? {}).filter(([one]) => one !== key));
    rates = { ...rates, [part]: meant(typed) ? { ...others, [key]: meant(typed) } : others };
  }
</script>

<fieldset class="flex flex-col gap-2 text-sm">
  <legend class="pb-1">{t("bureausPage.rates")}</legend>
  <div class="grid grid-cols-2 gap-2">
    <label class="flex flex-col gap-1"
      >{t("bureausPage.word")}<Input
        {...amount}
        value={rates.word === "0" ? "" : rates.word}
        onchange={(event) => (rates = { ...rates, word: meant(event.currentTarget.value) || "0" })}
      /></label
    >
    <label class="flex flex-col gap-1"
      >{t("bureausPage.currency")}<Input
        maxlength={3}
        dir="ltr"
        value={rates.currency}
        onchange={(event) => (rates = { ...rates, currency: event.currentTarget.value.toUpperCase() })}
      /></label
    >
  </div>
  <Disclosure title={t("bureausPage.moreRates")}>
    <div class="grid grid-cols-2 gap-2 pt-2">
      {#each session.setup?.locales ?? [] as one (one.tag)}
        <label class="flex flex-col gap-1"
          >{t("bureausPage.wordInto", { language: one.name })}<Input
            {...amount}
            placeholder={rates.word}
            value={rates.locales?.[one.tag] ?? ""}
            onchange={(event) => put("locales", one.tag, event.currentTarget.value)}
          /></label
        >
      {/each}
      {#each KINDS.filter((kind) => kind !== "without words") as kind (kind)}
        <label class="flex flex-col gap-1"
          >{t("bureausPage.share", { kind: t(`bureausPage.kind.${kind}`) })}<Input
            {...amount}
            placeholder="1"
            value={rates.shares?.[kind] ?? ""}
            onchange={(event) => put("shares", kind, event.currentTarget.value)}
          /></label
        >
      {/each}
    </div>
  </Disclosure>
</fieldset>
