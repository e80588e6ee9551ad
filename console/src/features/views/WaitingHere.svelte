<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Entry, type WorkLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import WorkCard from "./WorkCard.svelte";
  import { key, KINDS, place, type Kind } from "./work";

  /** What waits, by what it waits for; each is seen to here, without going away. */
  let { lines, only }: { lines: WorkLine[]; only: "" | Kind } = $props();
  const queries = useQueryClient();
  const groups = $derived(
    KINDS.map((kind) => ({ kind, lines: lines.filter((line) => line.kind === kind) })).filter(
      (group) => group.lines.length && (!only || group.kind === only),
    ),
  );
  let open = $state("");
  let entry = $state.raw<Entry | null>(null);
  let planning = $state(false);

  function done(line: WorkLine, how: string): void {
    open = "";
    toasts.say(t(`myWork.did_${how}`, { title: line.title }));
    void queries.invalidateQueries({ queryKey: ["my-work"] });
  }

  async function plan(line: WorkLine): Promise<void> {
    try {
      const path = { id: line.id, locale: line.locale };
      entry = await sure(api.GET("/api/entries/{id}/{locale}", { params: { path } }));
      planning = true;
    } catch (error) {
      toasts.wrong(error);
    }
  }
</script>

{#each groups as group (group.kind)}
  <section aria-labelledby="waiting-{group.kind}" class="pb-4">
    <h3 id="waiting-{group.kind}" class="pb-1.5 font-semibold text-berry">
      {t(`myWork.${group.kind}`)} <span class="font-normal text-moss">{group.lines.length}</span>
    </h3>
    <ul class="flex flex-col gap-2">
      {#each group.lines as line (key(line))}
        {@const opened = open === key(line)}
        <WorkCard {line} waits>
          {#snippet acts()}
            {#if line.kind === "review" || line.kind === "named"}
              <Button
                aria-expanded={opened}
                aria-label={t(`myWork.${line.kind === "review" ? "compare" : "answer"}Of`, {
                  title: line.title,
                })}
                onclick={() => (open = opened ? "" : key(line))}
                >{t(`myWork.${line.kind === "review" ? "compare" : "answer"}`)}</Button
              >
            {:else if line.kind === "ready"}
              <Button onclick={() => plan(line)}>{t("entry.release")}</Button>
            {:else}
              <Button href={place(line)}
                >{t(
                  ["translation", "dispatch"].includes(line.kind) ? "myWork.look" : "myWork.change",
                )}</Button
              >
            {/if}
          {/snippet}
          {#if opened && line.kind === "review"}
            {#await import("./ReviewHere.svelte") then part}<part.default
                {line}
                onDone={(how) => done(line, how)}
              />{/await}
          {:else if opened}
            {#await import("./AnswerHere.svelte") then part}<part.default
                {line}
                onDone={(how) => done(line, how)}
              />{/await}
          {/if}
        </WorkCard>
      {/each}
    </ul>
  </section>
{/each}

{#if entry}{#await import("../release/PlanDialog.svelte") then part}<part.default
      bind:open={planning}
      {entry}
      verb="release"
      onDone={() => queries.invalidateQueries()}
    />{/await}{/if}
