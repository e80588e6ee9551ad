<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Concept, type Glossary } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import ConceptDialog from "./ConceptDialog.svelte";
  import { conceptsQuery } from "./queries";

  /** The concepts of a glossary: found, changed and removed. */
  let { glossary, asked }: { glossary: Glossary; asked: { words: string; locale: string } } = $props();
  const queries = useQueryClient();
  let many = $state(1);
  let changing = $state.raw<Concept | null>(null);
  const found = conceptsQuery(
    () => glossary.id,
    () => asked,
    () => many,
  );
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["glossaries"] }));
  const params = $derived({ path: { id: glossary.id } });

  async function remove(one: Concept): Promise<void> {
    const done = await acting.do(() =>
      sure(api.POST("/api/glossaries/{id}/concepts/remove", { params, body: { ids: [one.id] } })),
    );
    if (!done) return;
    toasts.offer(t("glossaries.removed"), t("glossaries.putBack"), () => {
      const body = { note: one.note, terms: one.terms };
      void acting.do(() => sure(api.POST("/api/glossaries/{id}/concepts", { params, body })));
    });
  }
</script>

{#if acting.error}<Trouble error={acting.error} />{/if}
{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting lines={6} />
{:else}
  <ul>
    {#each found.data.items as one (one.id)}
      <li class="border-b py-2">
        <dl class="flex flex-wrap gap-x-6 gap-y-1">
          {#each one.terms as term, n (n)}
            <div class="flex items-baseline gap-2">
              <dt class="text-sm text-moss">{term.locale}</dt>
              <dd lang={term.locale} dir="auto" class="prose-text">
                {#if term.status === "deprecated"}<s>{term.text}</s
                  >{:else}{term.text}{/if}{#if term.status !== "preferred"}&nbsp;<span
                    class="font-sans text-sm text-moss">{t(`glossaries.${term.status}`)}</span
                  >{/if}
              </dd>
            </div>
          {/each}
        </dl>
        <p class="flex flex-wrap items-center gap-x-3 text-sm text-moss">
          {#if one.note}<span>{one.note}</span>{/if}
          <span>{one.by}, {when(one.at)}</span>
          {#if glossary.may_manage}
            <Button look="link" onclick={() => (changing = one)}
              >{t("glossaries.edit")}<span class="sr-only"> {one.terms[0]?.text}</span></Button
            >
            <Button look="link" disabled={acting.busy} onclick={() => remove(one)}
              >{t("glossaries.remove")}<span class="sr-only"> {one.terms[0]?.text}</span></Button
            >
          {/if}
        </p>
      </li>
    {:else}<li class="text-moss">{t("glossaries.nothing")}</li>{/each}
  </ul>
  {#if found.data.next}<Button class="mt-2" onclick={() => many++}>{t("glossaries.more")}</Button>{/if}
{/if}
{#if changing}<ConceptDialog {glossary} concept={changing} onClose={() => (changing = null)} />{/if}
