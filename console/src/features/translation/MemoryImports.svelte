<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Memory, type MemoryImport } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { importsQuery } from "./queries";

  /** The imports into a memory: how far each is, what could not be used, and undo. */
  let { memory, importing }: { memory: Memory; importing: boolean } = $props();
  const queries = useQueryClient();
  const found = importsQuery(
    () => memory.id,
    () => importing,
  );
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["memories"] }));
  const some = $derived(found.data?.items ?? []);

  function undo(one: MemoryImport): Promise<boolean> {
    return acting.do(async () => {
      const params = { path: { id: memory.id, number: one.id } };
      let left = true;
      while (left) left = (await sure(api.POST("/api/memories/{id}/imports/{number}/undo", { params }))).more;
      toasts.say(t("memories.undone"));
    });
  }
</script>

{#if acting.error}<Trouble error={acting.error} />{/if}
{#if some.length}
  <Disclosure title={t("memories.imports")} open={importing} class="pb-2">
    <ul class="flex flex-col gap-2 text-sm">
      {#each some as one (one.id)}
        <li>
          <span class="font-semibold">{one.name}</span>
          <span class={one.state === "failed" ? "text-straw" : "text-moss"}
            >{t(`memories.state.${one.state}`)} · {t("memories.progress", { ...one })} · {one.by}, {when(
              one.at,
            )}</span
          >
          {#if memory.may_manage && ["done", "failed", "interrupted"].includes(one.state)}
            <Button class="px-2 py-0.5 text-sm" disabled={acting.busy} onclick={() => undo(one)}
              >{t("memories.undo")}<span class="sr-only"> {one.name}</span></Button
            >
          {/if}
          {#if one.problems.length}
            <ul class="list-disc ps-5 text-moss">
              {#each one.problems as problem (problem)}<li>{problem}</li>{/each}
            </ul>
          {/if}
        </li>
      {/each}
    </ul>
  </Disclosure>
{/if}
