<script lang="ts">
  import "../../messages/release";
  import type { MoveLine } from "../../lib/api";
  import { session } from "../../lib/state/session.svelte";
  import { strandOf } from "./ask";
  import { t } from "../../lib/i18n";
  import { stageNames } from "../../lib/names";
  import Button from "../../ui/Button.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import CloseCircleOutline from "flowbite-svelte-icons/CloseCircleOutline.svelte";

  interface Props {
    moves: MoveLine[];
    /** Without what is in the way, where that is said elsewhere. */
    plain?: boolean;
    /** The dispatch, where its pages may be looked at as they will be. */
    inside?: string;
    onDrop?: (move: MoveLine) => void;
    onWrite?: (move: MoveLine) => void;
    onCatchUp?: (move: MoveLine) => void;
  }
  const stages = stageNames();
  let { moves, plain = false, inside = "", onDrop, onWrite, onCatchUp }: Props = $props();

  /** The entry, or the strand on which it is written inside the dispatch. */
  function place(move: MoveLine): string {
    const locale = move.locale === "*" ? move.source_locale : move.locale;
    return move.strand ? strandOf({ ...move, locale }) : `/entries/${move.id}/${locale}`;
  }
  const own = (move: MoveLine) => move.locale !== "*";
  const page = (move: MoveLine) =>
    own(move) && !!session.type(move.type)?.fields.some((spec) => spec.kind === "slug");
  /** Whether what it is about is gone: it can be taken out, and that is all. */
  const gone = (move: MoveLine) =>
    move.unmet.some((u) => ["removed", "archived", "stuck", "no-stage"].includes(u.code));
  const behind = (move: MoveLine) => move.strand && move.unmet.some((u) => u.code === "not-descended");

  /** The sides of a comparison: the revisions, with those of the shared fields where they go too. */
  function sides(move: MoveLine): string {
    const shared = moves.find((one) => one.id === move.id && one.locale === "*" && one.stage === move.stage);
    const side = (mine: number, theirs?: number | null) =>
      encodeURIComponent(theirs ? `${mine}+${theirs}` : `${mine}`);
    return `before=${side(move.before!, shared?.before)}&after=${side(move.after!, shared?.after)}`;
  }

  function number(value: number | null | undefined): string {
    return value ? t("plan.revision", { number: value }) : t("plan.nothing");
  }
</script>

<ul class="flex flex-col gap-2">
  {#each moves as move, n (n)}
    <li>
      <p>
        <span class="font-semibold">{t(`verb.${move.verb}`)}:</span>
        <a href={place(move)}>{move.title || t("list.untitled")}</a>
        <span class="text-moss">
          ({move.locale === "*" ? t("plan.shared") : move.locale}) {number(move.before)} → {move.verb ===
          "withdraw"
            ? t("plan.nothing")
            : number(move.after)}
          {#if move.to}· {t("dispatch.to", { stage: move.to })}{:else if move.stage !== "release"}· {stages.get(
              move.stage,
            ) ?? move.stage}{/if}
          {#if move.strand}· {t("dispatch.writtenInside")}{/if}
          {#if move.along}· {t("plan.along")}{/if}
          {#if move.follows}· {t("dispatch.whatever")}{/if}
        </span>
        {#if own(move) && move.before && move.after && move.before !== move.after}
          <a class="text-sm" href="/entries/{move.id}/{move.locale}/compare?{sides(move)}"
            >{t("dispatch.compare")}</a
          >
        {/if}
        {#if inside && page(move) && !gone(move)}
          <a class="text-sm" href="/preview/{move.id}/{move.locale}?dispatch={inside}&beside=release"
            >{t("dispatch.seePage")}</a
          >
        {/if}
        {#if onWrite && own(move) && move.verb === "release" && !move.strand && !move.along && !gone(move)}
          <Button look="quiet" class="text-sm text-hedge" onclick={() => onWrite(move)}
            >{t("dispatch.inside.here")}</Button
          >
        {/if}
        {#if onCatchUp && own(move) && behind(move)}
          <Button onclick={() => onCatchUp(move)}>{t("dispatch.catchUp")}</Button>
        {/if}
        {#if onDrop && !move.along && move.locale !== "*"}
          <Button
            look="quiet"
            class="align-middle"
            icon={CloseOutline}
            label={t("dispatch.drop", { title: move.title })}
            onclick={() => onDrop(move)}
          />
        {/if}
      </p>
      {#each move.sets as set (set.field)}
        <p class="ps-4">
          <span class="text-moss">{set.label}:</span>
          <span dir="auto" lang={own(move) ? move.locale : undefined}
            >{set.text || t("dispatch.empties")}</span
          >
        </p>
      {/each}
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
