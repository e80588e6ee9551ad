<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Entry, type WorkLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import WorkCard from "./WorkCard.svelte";
  import { key } from "./work";

  /** What is assigned to somebody: done, or handed on, from here. */
  let { lines }: { lines: WorkLine[] } = $props();
  const queries = useQueryClient();
  let open = $state("");
  let entry = $state.raw<Entry | null>(null);

  const path = (line: WorkLine) => ({ path: { id: line.id, locale: line.locale } });
  const again = () => void queries.invalidateQueries({ queryKey: ["my-work"] });

  async function hand(line: WorkLine): Promise<void> {
    if (open === key(line)) return void (open = "");
    try {
      entry = await sure(api.GET("/api/entries/{id}/{locale}", { params: path(line) }));
      open = key(line);
    } catch (error) {
      toasts.wrong(error);
    }
  }

  /** It is done; undone by assigning it as it was. */
  async function end(line: WorkLine): Promise<void> {
    const params = path(line);
    try {
      const before = await sure(api.GET("/api/entries/{id}/{locale}", { params }));
      await sure(api.POST("/api/entries/{id}/{locale}/assignment/end", { params, body: { done: true } }));
      const was = before.assignment;
      again();
      toasts.offer(t("myWork.did_done", { title: line.title }), t("myWork.undo"), async () => {
        if (!was) return;
        const body = { handle: was.handle, due: was.due ?? "", note: was.note };
        await sure(api.PUT("/api/entries/{id}/{locale}/assignment", { params, body })).catch((error) =>
          toasts.wrong(error),
        );
        again();
      });
    } catch (error) {
      toasts.wrong(error);
    }
  }
</script>

<ul class="flex flex-col gap-2">
  {#each lines as line (key(line))}
    <WorkCard {line}>
      {#snippet acts()}
        <Button aria-label={t("myWork.doneOf", { title: line.title })} onclick={() => end(line)}
          >{t("assign.done")}</Button
        >
        <Button
          aria-label={t("myWork.onOf", { title: line.title })}
          aria-expanded={open === key(line)}
          onclick={() => hand(line)}>{t("assign.on")}</Button
        >
      {/snippet}
      {#if open === key(line) && entry}
        {#await import("../collaboration/AssignForm.svelte") then part}<part.default
            {entry}
            onEntry={again}
            onClose={() => (open = "")}
          />{/await}
      {/if}
    </WorkCard>
  {/each}
</ul>
