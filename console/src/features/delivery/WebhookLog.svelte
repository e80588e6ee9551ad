<script lang="ts">
  import "../../messages/setup";
  import { api, sure } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Badge from "../../ui/Badge.svelte";
  import Button from "../../ui/Button.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { deliveriesQuery } from "./webhooks";

  /** What was sent to a webhook, newest first, with every try; each can be read, and sent again. */
  let { id }: { id: string } = $props();
  const found = deliveriesQuery(() => id);
  const TONES = { delivered: "hedge", waiting: "slate", "given up": "straw" } as const;
  const items = $derived(found.data?.pages.flatMap((one) => one.items) ?? []);

  async function again(number: number): Promise<void> {
    try {
      const params = { path: { id, number } };
      await sure(api.POST("/api/webhooks/{id}/deliveries/{number}/again", { params }));
      toasts.say(t("webhooks.sentAgain"));
      await found.refetch();
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

<section class="mt-3 border-t pt-3" aria-label={t("webhooks.sent")}>
  {#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
  {:else if !found.data}<Waiting lines={3} />
  {:else}
    <ol class="flex flex-col gap-3">
      {#each items as one (one.id)}
        <li>
          <div class="flex flex-wrap items-center gap-2">
            <code class="text-sm">{one.kind}</code>
            <Badge tone={TONES[one.state]}>{t(`webhooks.state.${one.state}`)}</Badge>
            {#if one.next_at && one.tries.length}<span class="text-sm text-moss"
                >{t("webhooks.nextTry", { when: when(one.next_at) })}</span
              >{/if}
            <Button look="link" class="text-sm" onclick={() => again(one.id)}
              >{t("webhooks.again")}<span class="sr-only"> {one.message}</span></Button
            >
          </div>
          {#each one.tries as each, n (n)}
            <p class="ps-4 text-sm text-moss">
              {when(each.at)}: {each.status || t("webhooks.noAnswer")}, {t("webhooks.took", {
                took: each.took,
              })}
              {#if each.trouble}<span class="text-straw">{each.trouble}</span>{/if}
            </p>
          {/each}
          <Disclosure title={t("webhooks.body")}>
            <pre class="max-h-72 overflow-auto p-2 text-sm whitespace-pre-wrap" dir="ltr">{JSON.stringify(
                JSON.parse(one.body),
                null,
                2,
              )}</pre>
          </Disclosure>
        </li>
      {:else}<li class="text-moss">{t("webhooks.nothingSent")}</li>{/each}
    </ol>
    {#if found.hasNextPage}
      <Button class="mt-3" busy={found.isFetchingNextPage} onclick={() => found.fetchNextPage()}
        >{t("list.more")}</Button
      >
    {/if}
  {/if}
</section>
