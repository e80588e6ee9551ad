<script lang="ts">
  import "../../messages/setup";
  import type { components } from "../../lib/api/schema";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** What a change would do to the entries there are, beside where it is made. */
  interface Props {
    impact: components["schemas"]["Impact"] | null;
    error: unknown;
    dirty: boolean;
    isSet: boolean;
  }
  let { impact, error, dirty, isSet }: Props = $props();
</script>

<aside class="sheet h-fit p-4 lg:sticky lg:top-4" aria-labelledby="would">
  <h2 id="would" class="pb-2 text-lg font-semibold">{t("types.would")}</h2>
  {#if error}<Trouble {error} />
  {:else if !dirty}<p class="text-moss">{t("types.nothingYet")}</p>
  {:else if !impact}<p class="text-moss" role="status">{t("app.loading")}</p>
  {:else}
    <p class="pb-2 text-sm text-moss" role="status">{t("types.looked", { count: impact.entries })}</p>
    <ul class="flex flex-col gap-3">
      {#each impact.effects as effect, n (n)}
        <li class="border-s-2 ps-3 {effect.refuses ? 'border-straw' : 'border-line'}">
          {#if isSet}<span class="text-sm text-moss">{effect.type}: </span>{/if}{effect.what}
          {#if effect.entries}<span class="block text-sm text-moss"
              >{t("types.entries", { count: effect.entries })}:
              {#each effect.examples as one, m (one.id)}{m ? ", " : ""}<a
                  href="/entries/{one.id}/{session.setup?.locales[0]?.tag}">{one.title}</a
                >{/each}{effect.entries > effect.examples.length ? " …" : ""}</span
            >{/if}
          {#if effect.refuses}<span class="block text-sm font-semibold text-straw">{t("types.refuses")}</span
            >{/if}
        </li>
      {:else}
        <li class="text-moss">{t("types.harmless")}</li>
      {/each}
    </ul>
  {/if}
</aside>
