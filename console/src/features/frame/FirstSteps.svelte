<script lang="ts">
  import { peopleQuery } from "../access/queries";
  import { countQuery } from "../search/queries";
  import { t } from "../../lib/i18n";
  import { Kept } from "../../lib/state/kept.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import CheckCircleOutline from "flowbite-svelte-icons/CheckCircleOutline.svelte";

  /** What is to be done in a new house, in order. Each step shows by itself that it is done; any can be left out, and all of them left. */
  const STEPS = [
    { name: "people", to: "/set-up/people" },
    { name: "languages", to: "/set-up/languages" },
    { name: "type", to: "/set-up/types/new" },
    { name: "entry", to: "/entries?start=yes" },
    { name: "release", to: "/entries" },
  ] as const;
  /** The types that a new file has of itself. */
  const BROUGHT = new Set(["picture", "media", "document", "page"]);
  let { over }: { over: () => void } = $props();
  const left = new Kept<string[]>("steps-left", []);
  const people = peopleQuery();
  const entries = countQuery(() => ({}));
  const out = countQuery(() => ({ stage: "release" }));
  const known = $derived(people.data && entries.data && out.data);
  const done = $derived<Record<string, boolean>>({
    people: (people.data?.items.filter((one) => one.kind === "person").length ?? 0) > 1,
    languages: (session.setup?.locales.length ?? 0) > 1,
    type: (session.setup?.types ?? []).some((one) => !BROUGHT.has(one.name)),
    entry: (entries.data?.count ?? 0) > 0,
    release: (out.data?.count ?? 0) > 0,
  });
  const rest = $derived(STEPS.filter((step) => !done[step.name] && !left.value.includes(step.name)));
  $effect(() => {
    if (known && !rest.length) over();
  });
</script>

{#if known && rest.length}
  <section aria-labelledby="first-steps" class="sheet mt-4 mb-2 border-s-4 border-s-hedge p-4">
    <div class="flex flex-wrap items-baseline gap-2">
      <h2 id="first-steps" class="text-lg font-semibold">{t("steps.title")}</h2>
      <span class="text-moss">{t("steps.far", { done: STEPS.length - rest.length, all: STEPS.length })}</span>
      <Button look="link" class="ms-auto text-sm" onclick={over}>{t("steps.leave")}</Button>
    </div>
    <ol class="mt-2 flex flex-col gap-1">
      {#each STEPS as step, n (step.name)}
        {@const open = rest.includes(step)}
        <li class="flex flex-wrap items-center gap-x-3 gap-y-1 border-t py-2 {open ? '' : 'text-moss'}">
          <span
            class="grid size-7 shrink-0 place-items-center rounded-full border {open
              ? 'border-edge'
              : 'border-hedge text-hedge'}"
            >{#if open}{n + 1}{:else}<CheckCircleOutline aria-hidden={true} />{/if}</span
          >
          <span class="min-w-52 flex-1">
            <span class="font-semibold">{t(`steps.${step.name}`)}</span>
            {#if !open}<span class="sr-only">{t("steps.done")}</span>{/if}
            <span class="block text-sm text-moss">{t(`steps.${step.name}About`)}</span>
          </span>
          {#if open}
            <Button look={step === rest[0] ? "main" : "plain"} href={step.to}
              >{t(`steps.${step.name}Go`)}</Button
            >
            <Button look="quiet" class="text-moss" onclick={() => (left.value = [...left.value, step.name])}
              >{t("steps.skip")}</Button
            >
          {/if}
        </li>
      {/each}
    </ol>
  </section>
{/if}
