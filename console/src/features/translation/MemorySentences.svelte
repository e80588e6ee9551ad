<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Known, type Memory } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { sentencesQuery } from "./queries";
  import { wordsIn } from "./table/sentences";

  /** The sentences of a memory: found, changed and removed. */
  let { memory, asked }: { memory: Memory; asked: { words: string; source: string; target: string } } =
    $props();
  const queries = useQueryClient();
  let many = $state(1);
  const found = sentencesQuery(
    () => memory.id,
    () => asked,
    () => many,
  );
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["memories"] }));
  let changing = $state(0);
  let text = $state("");

  async function save(event: SubmitEvent, one: Known): Promise<void> {
    event.preventDefault();
    const params = { path: { id: memory.id, number: one.id } };
    const done = await acting.do(() =>
      sure(api.PATCH("/api/memories/{id}/sentences/{number}", { params, body: { target: text } })),
    );
    if (done) changing = 0;
  }

  function remove(one: Known): Promise<boolean> {
    return acting.do(async () => {
      const params = { path: { id: memory.id } };
      await sure(api.POST("/api/memories/{id}/sentences/remove", { params, body: { ids: [one.id] } }));
      toasts.say(t("memories.removed"));
    });
  }
</script>

{#if acting.error}<Trouble error={acting.error} />{/if}
{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting lines={6} />
{:else}
  <ul>
    {#each found.data.items as one (one.id)}
      <li class="grid gap-x-4 border-b py-2 md:grid-cols-2">
        <p class="prose-text" lang={one.source_locale} dir="auto">{wordsIn(one.source_text)}</p>
        <div>
          {#if changing === one.id}
            <form class="flex gap-2" onsubmit={(event) => save(event, one)}>
              <Input
                class="flex-1"
                bind:value={text}
                lang={one.locale}
                dir="auto"
                aria-label={t("memories.translationOf", { source: wordsIn(one.source_text) })}
              />
              <Button type="submit" disabled={acting.busy}>{t("memories.save")}</Button>
            </form>
          {:else}
            <p class="prose-text" lang={one.locale} dir="auto">{wordsIn(one.text)}</p>
          {/if}
          <p class="flex flex-wrap items-center gap-x-3 text-sm text-moss">
            <span
              >{one.source_locale} → {one.locale} · {t(`memories.origin.${one.origin}`)} · {one.by}, {when(
                one.at,
              )}</span
            >
            {#if memory.may_manage && changing !== one.id}
              <Button
                look="link"
                onclick={() => {
                  changing = one.id;
                  text = one.text;
                }}>{t("memories.edit")}<span class="sr-only"> {wordsIn(one.text)}</span></Button
              >
              <Button look="link" disabled={acting.busy} onclick={() => remove(one)}
                >{t("memories.remove")}<span class="sr-only"> {wordsIn(one.text)}</span></Button
              >
            {/if}
          </p>
        </div>
      </li>
    {:else}<li class="text-moss">{t("memories.nothing")}</li>{/each}
  </ul>
  {#if found.data.next}<Button class="mt-2" onclick={() => many++}>{t("memories.more")}</Button>{/if}
{/if}
