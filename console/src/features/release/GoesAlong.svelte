<script lang="ts">
  import "../../messages/release";
  import type { DispatchCheck } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Button from "../../ui/Button.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import { moveOf, type MoveAsk } from "./ask";

  /** What an open dispatch needs, and what could go along: each is put in by itself, and taken out again like others. */
  let { check, put }: { check: DispatchCheck; put: (moves: MoveAsk[]) => unknown } = $props();
  type One = DispatchCheck["needs"][number];
  const asked = (one: One) => moveOf(one.id, one.locale, { verb: one.verb as MoveAsk["verb"] });
</script>

{#snippet lines(all: One[])}
  <ul class="flex flex-col gap-1 pt-1">
    {#each all as one (one.id + one.locale)}
      <li class="flex flex-wrap items-center gap-2">
        <span
          ><a class="underline" href="/entries/{one.id}/{one.locale}">{one.title}</a>
          <span class="text-moss">({one.locale})</span></span
        >
        <Button
          class="text-sm"
          aria-label={t("dispatch.putInOf", { title: one.title, locale: one.locale })}
          onclick={() => put([asked(one)])}>{t("dispatch.putIn")}</Button
        >
      </li>
    {/each}
  </ul>
  {#if all.length > 1}
    <Button class="mt-2 text-sm" onclick={() => put(all.map(asked))}
      >{t("dispatch.putAllIn", { count: all.length })}</Button
    >
  {/if}
{/snippet}

{#if check.needs.length}
  <section class="pb-3" aria-labelledby="needed">
    <h2 id="needed" class="text-lg font-semibold">{t("dispatch.needed")}</h2>
    {@render lines(check.needs)}
  </section>
{/if}
{#if check.offers.length}
  <Disclosure title={t("dispatch.offered", { count: check.offers.length })} class="pb-3">
    {@render lines(check.offers)}
  </Disclosure>
{/if}
