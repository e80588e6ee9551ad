<script lang="ts">
  import { t } from "../../lib/i18n";
  import { shownInQuery } from "./queries";

  interface Props {
    id: string;
    title: string;
    /** Before something goes out: only what readers see, with a look at it before and after. */
    changing?: boolean;
  }
  let { id, title, changing = false }: Props = $props();
  const found = shownInQuery(() => id);
  const items = $derived((found.data?.items ?? []).filter((one) => !changing || one.out.length));
</script>

{#if found.data && (items.length || !changing) && (!changing || found.data.shown_whole)}
  <section>
    <h3 class="pb-1 font-semibold">
      {changing
        ? t("shownIn.changes", { count: found.data.out, title })
        : t("shownIn.title", { count: found.data.total })}
    </h3>
    <ul class="flex max-h-60 flex-col gap-1 overflow-y-auto">
      {#each items as one (one.id)}
        <li class="flex flex-wrap items-center gap-x-3">
          <a href="/entries/{one.id}/{one.locale}">{one.title}</a>
          <span class="text-sm text-moss">{one.out.join(", ") || t("shownIn.notOut")}</span>
          {#if changing && one.page}<a
              class="ms-auto text-sm"
              href="/preview/{one.id}/{one.locale}?beside=draft"
              target="_blank">{t("shownIn.beforeAfter")}</a
            >{/if}
        </li>
      {:else}<li class="text-moss">{t("shownIn.none")}</li>{/each}
    </ul>
  </section>
{/if}
