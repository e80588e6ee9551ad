<script lang="ts">
  import "../../messages/release";
  import type { MoveLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { stageNames } from "../../lib/names";
  import Button from "../../ui/Button.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import CloseCircleOutline from "flowbite-svelte-icons/CloseCircleOutline.svelte";

  interface Props {
    moves: MoveLine[];
    /** Without what is in the way, where that is said elsewhere. */
    plain?: boolean;
    onDrop?: (move: MoveLine) => void;
  }
  const stages = stageNames();
  let { moves, plain = false, onDrop }: Props = $props();

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
          {#if move.stage !== "release"}· {stages.get(move.stage) ?? move.stage}{/if}
          {#if move.along}· {t("plan.along")}{/if}
          {#if move.follows}· {t("dispatch.whatever")}{/if}
        </span>
        {#if onDrop && !move.along && move.locale !== "*"}
          <Button
            look="quiet"
            icon={CloseOutline}
            label={t("dispatch.drop", { title: move.title })}
            onclick={() => onDrop(move)}
          />
        {/if}
      </p>
      {#if move.head && move.after && move.head > move.after}
        <p class="ps-4 text-sm text-straw">{t("dispatch.movedOn", { number: move.head })}</p>
      {/if}
      {#each plain ? [] : move.unmet as condition, m (m)}
        <p class="ps-4 text-straw">
          <CloseCircleOutline class="inline size-5 align-text-bottom" />
          {#if condition.where && /^[0-9a-f-]{36}$/.test(condition.where)}<a href="/entries/{condition.where}"
              >{condition.what}</a
            >{:else}{condition.what}{/if}
          {#if condition.who.length}<span class="text-sm text-moss"
              >{t("problem.who", { who: condition.who.join(", ") })}</span
            >{/if}
        </p>
      {/each}
    </li>
  {/each}
</ul>
