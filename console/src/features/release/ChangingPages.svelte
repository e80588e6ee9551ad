<script lang="ts">
  import "../../messages/release";
  import { type DispatchCheck } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Disclosure from "../../ui/Disclosure.svelte";

  /** The pages that do not go themselves and that readers see otherwise afterwards, with what they show that changes. */
  let { check, inside = "" }: { check: DispatchCheck; inside?: string } = $props();
  const rest = $derived(check.pages_total - check.pages.length);
</script>

{#if check.pages_total}
  <Disclosure title={t("dispatch.changing", { count: check.pages_total })} class="pt-3">
    <ul class="flex flex-col gap-1 pt-1">
      {#each check.pages as page (page.id + page.locale)}
        <li>
          <p>
            <a href="/entries/{page.id}/{page.locale}">{page.title}</a>
            <span class="text-moss"
              >({page.locale}) {t("dispatch.shows", { what: page.shows.join(", ") })}</span
            >
            {#if inside}<a
                class="text-sm"
                href="/preview/{page.id}/{page.locale}?dispatch={inside}&beside=release"
                >{t("dispatch.seePage")}</a
              >{/if}
          </p>
        </li>
      {/each}
    </ul>
    {#if rest}<p class="text-moss">{t("dispatch.changingMore", { count: rest })}</p>{/if}
  </Disclosure>
{/if}
