<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Glossary } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { glossaryImportsQuery } from "./queries";

  /** The files that were imported into a glossary; each can be undone. */
  let { glossary }: { glossary: Glossary } = $props();
  const queries = useQueryClient();
  const found = glossaryImportsQuery(() => glossary.id);
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["glossaries"] }));

  function undo(number: number): Promise<boolean> {
    return acting.do(async () => {
      const params = { path: { id: glossary.id, number } };
      await sure(api.POST("/api/glossaries/{id}/imports/{number}/undo", { params }));
      toasts.say(t("glossaries.undone"));
    });
  }
</script>

{#if found.data?.items.length}
  <Disclosure title={t("glossaries.imports")} class="pb-3">
    {#if acting.error}<Trouble error={acting.error} />{/if}
    <ul class="pt-1 text-sm">
      {#each found.data.items as one (one.id)}
        <li class="flex flex-wrap items-center gap-3 py-1">
          <span class="font-semibold">{one.name}</span>
          <span>{t("glossaries.brought", { count: one.added })}</span>
          <span class="text-moss">{one.by}, {when(one.at)}</span>
          {#if one.undone_at}<span class="text-moss">{t("glossaries.undoneAt")}</span>
          {:else if glossary.may_manage}
            <Button look="link" disabled={acting.busy} onclick={() => undo(one.id)}
              >{t("glossaries.undo")}<span class="sr-only"> {one.name}</span></Button
            >
          {/if}
        </li>
      {/each}
    </ul>
  </Disclosure>
{/if}
