<script lang="ts">
  import { createQuery } from "@tanstack/svelte-query";
  import Disclosure from "../../ui/Disclosure.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";

  /** What an assistant wrote in a draft that nobody has signed off, word by word: marked by a line and by a word for those who do not see it. */
  let { entry }: { entry: Entry } = $props();
  const path = $derived({ id: entry.id, locale: entry.locale });
  const found = createQuery(() => ({
    queryKey: ["entry", entry.id, entry.locale, "by-assistants", entry.strand, entry.etag],
    queryFn: () =>
      sure(
        api.GET("/api/entries/{id}/{locale}/by-assistants", {
          params: { path, query: { strand: entry.strand } },
        }),
      ),
  }));
</script>

{#if found.error}<Trouble error={found.error} />
{:else if !found.data}<Waiting />
{:else if found.data.count}
  <section class="border-s-4 border-s-straw ps-3" aria-label={t("assisted.title")}>
    <p>
      {t("assisted.wrote", { count: found.data.count, names: found.data.by.join(", ") })}
    </p>
    <Disclosure title={t("assisted.show")}>
      <dl class="flex flex-col gap-2 pt-2">
        {#each found.data.places as place (place.path + place.paragraph)}
          <div>
            <dt class="text-sm text-moss">{place.label}</dt>
            <dd lang={entry.locale} dir="auto">
              {#each place.runs as run, n (n)}{#if run.assistant}<mark
                    class="bg-transparent text-inherit underline decoration-straw decoration-dotted decoration-2 underline-offset-4"
                    ><span class="sr-only">{t("assisted.begins")}</span>{run.text}<span class="sr-only"
                      >{t("assisted.ends")}</span
                    ></mark
                  >{:else}{run.text}{/if}{/each}
            </dd>
          </div>
        {/each}
      </dl>
    </Disclosure>
  </section>
{/if}
