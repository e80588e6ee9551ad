<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type FileImport } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { importsQuery } from "./queries";

  /** The files that were imported into a memory or a glossary: how far each is, what could not be used, and undo. */
  interface Props {
    what: "memories" | "glossaries";
    one: { id: string; may_manage: boolean };
    importing: boolean;
  }
  let { what, one: into, importing }: Props = $props();
  const queries = useQueryClient();
  // What it is about never changes.
  /* svelte-ignore state_referenced_locally */
  const found = importsQuery(
    what,
    () => into.id,
    () => importing,
  );
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: [what] }));
  const some = $derived(found.data?.items ?? []);

  function undo(one: FileImport): Promise<boolean> {
    return acting.do(async () => {
      const params = { path: { id: into.id, number: one.id } };
      const go = () =>
        what === "memories"
          ? api.POST("/api/memories/{id}/imports/{number}/undo", { params })
          : api.POST("/api/glossaries/{id}/imports/{number}/undo", { params });
      while ((await sure(go())).more);
      toasts.say(t("imports.undone"));
    });
  }
</script>

{#if acting.error}<Trouble error={acting.error} />{/if}
{#if some.length}
  <Disclosure title={t("imports.title")} open={importing} class="pb-2">
    <ul class="flex flex-col gap-2 text-sm">
      {#each some as one (one.id)}
        <li>
          <span class="font-semibold">{one.name}</span>
          <span class={one.state === "failed" ? "text-straw" : "text-moss"}
            >{t(`imports.state.${one.state}`)} · {t("imports.progress", { ...one })} · {one.by}, {when(
              one.at,
            )}</span
          >
          {#if into.may_manage && ["done", "failed", "interrupted"].includes(one.state)}
            <Button class="px-2 py-0.5 text-sm" disabled={acting.busy} onclick={() => undo(one)}
              >{t("imports.undo")}<span class="sr-only"> {one.name}</span></Button
            >
          {/if}
          {#if one.problems.length}
            <ul class="list-disc ps-5 text-moss">
              {#each one.problems as problem, n (n)}<li>{problem}</li>{/each}
            </ul>
          {/if}
        </li>
      {/each}
    </ul>
  </Disclosure>
{/if}
