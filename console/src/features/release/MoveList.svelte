<script lang="ts">
  import type { MoveLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import CloseCircleOutline from "flowbite-svelte-icons/CloseCircleOutline.svelte";

  let { moves }: { moves: MoveLine[] } = $props();

  function number(value: number | null | undefined): string {
    return value ? t("plan.revision", { number: value }) : t("plan.nothing");
  }
</script>

<ul class="flex flex-col gap-2">
  {#each moves as move, n (n)}
    <li>
      <p>
        <span class="font-semibold">{t(`verb.${move.verb}`)}:</span>
        <a href="/entries/{move.id}/{move.locale === '*' ? move.source_locale : move.locale}"
          >{move.title || t("list.untitled")}</a
        >
        <span class="text-moss">
          ({move.locale === "*" ? t("plan.shared") : move.locale}) {number(move.before)} → {move.verb ===
          "withdraw"
            ? t("plan.nothing")
            : number(move.after)}
          {#if move.along}· {t("plan.along")}{/if}
        </span>
      </p>
      {#each move.unmet as condition, m (m)}
        <p class="ps-4 text-straw">
          <CloseCircleOutline class="inline size-5 align-text-bottom" />
          {condition.what}
          {#if condition.who.length}<span class="text-sm text-moss"
              >{t("problem.who", { who: condition.who.join(", ") })}</span
            >{/if}
        </p>
      {/each}
    </li>
  {/each}
</ul>
