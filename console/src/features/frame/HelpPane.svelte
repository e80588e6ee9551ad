<script lang="ts">
  import "../../messages/help";
  import { t } from "../../lib/i18n";
  import { tour } from "../../lib/state/tour.svelte";
  import { route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import { helpOf } from "./help";

  /** What the page that is looked at is for, beside it, and where more is said. */
  let { onClose }: { onClose: () => void } = $props();
  const help = $derived(helpOf(route.pathname));
  let head = $state<HTMLElement>();
  $effect(() => head?.focus());
</script>

<aside
  aria-label={t("help.title")}
  class="border-line bg-wash p-4 max-md:fixed max-md:inset-x-0 max-md:bottom-0 max-md:z-40 max-md:max-h-[65vh] max-md:overflow-y-auto max-md:border-t max-md:shadow-lg md:sticky md:top-0 md:h-screen md:w-72 md:shrink-0 md:overflow-y-auto md:border-s"
>
  <div class="flex items-center justify-between gap-2 pb-2">
    <h2 class="text-lg font-semibold outline-none" tabindex="-1" bind:this={head}>{t("help.title")}</h2>
    <Button look="quiet" icon={CloseOutline} label={t("help.close")} onclick={onClose} />
  </div>
  <div class="flex flex-col gap-3">
    {#each Array.from({ length: help.paragraphs }, (_, n) => n) as n (help.name + n)}<p>
        {t(`help.${help.name}.${n + 1}`)}
      </p>{/each}
  </div>
  <p class="pt-4"><Button onclick={() => tour.go(0)}>{t("help.tour")}</Button></p>
  <h3 class="pt-4 pb-1 font-semibold">{t("help.guides")}</h3>
  <ul class="flex flex-col gap-1">
    {#each help.guides as one (one)}
      <li>
        <a class="underline" href="/assets/guides/{one}.html" target="_blank" rel="noopener"
          >{t(`help.guide.${one}`)}</a
        >
      </li>
    {/each}
  </ul>
</aside>
