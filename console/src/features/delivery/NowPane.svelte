<script lang="ts">
  import GatePart from "../release/GatePart.svelte";
  import AssignmentPart from "../collaboration/AssignmentPart.svelte";
  import ShownIn from "./ShownIn.svelte";
  import { api, sure, type Entry } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";

  interface Props {
    entry: Entry;
    onEntry: (entry: Entry) => void;
    onChange: () => void;
  }
  let { entry, onEntry, onChange }: Props = $props();
  const review = $derived(entry.review);
  const kind = $derived(session.type(entry.type));
  const shownWhole = $derived(
    kind?.common ||
      kind?.fields.some((field) => field.kind === "file") ||
      session.setup?.types.some((type) => type.layout === entry.type),
  );

  async function cancel(id: string): Promise<void> {
    try {
      await sure(api.POST("/api/dispatches/{id}/cancel", { params: { path: { id } } }));
      onChange();
    } catch (error) {
      toasts.wrong(error);
    }
  }
</script>

<div class="flex flex-col gap-5">
  <section>
    {#if entry.missing.length}
      <h2 class="font-sans font-semibold text-straw">{t("entry.incomplete")}</h2>
      <p>{t("entry.missing", { what: entry.missing.map((one) => one.label).join(", ") })}</p>
    {:else}
      <p class="text-moss">{t("entry.complete")}</p>
    {/if}
  </section>
  <section>
    <h2 class="font-sans font-semibold">{t("entry.review")}</h2>
    {#if !review}
      <p class="text-moss">{t("entry.reviewNone")}</p>
    {:else if review.outcome === "waiting"}
      <p>{t("entry.reviewWaiting", { revision: review.revision, when: when(review.at), by: review.by })}</p>
      {#if review.note}<p class="border-s-2 ps-3" dir="auto">{t("quoted", { text: review.note })}</p>{/if}
    {:else if review.outcome === "sent back"}
      <p class="font-semibold">
        {t("entry.reviewSentBack", {
          by: review.decided_by,
          revision: review.revision,
          when: when(review.decided_at),
        })}
      </p>
      <p class="border-s-2 border-berry ps-3" dir="auto">{t("quoted", { text: review.reason })}</p>
    {:else if review.outcome === "taken back"}
      <p class="text-moss">{t("entry.reviewTaken", { revision: review.revision })}</p>
    {/if}
    {#each entry.sign_offs as sign (sign.by + sign.stage + sign.revision)}
      <p>{t("entry.reviewSigned", { by: sign.by, when: when(sign.at), revision: sign.revision })}</p>
      {#if sign.note}<p class="border-s-2 ps-3" dir="auto">{t("quoted", { text: sign.note })}</p>{/if}
      <p class={sign.covers_head && sign.covers_common ? "text-moss" : "text-straw"}>
        {!sign.covers_head
          ? t("entry.coversNot", { revision: sign.revision })
          : t(sign.covers_common ? "entry.covers" : "entry.coversText")}
      </p>
    {/each}
  </section>
  <GatePart {entry} {onEntry} />
  <AssignmentPart {entry} {onEntry} />
  {#if entry.planned.length}
    <section>
      <h2 class="font-sans font-semibold text-slate">{t("entry.planned")}</h2>
      {#each entry.planned as planned (planned.dispatch + planned.verb)}
        <p>
          <a href="/timetable/{planned.dispatch}">{planned.name}</a>: {t(`verb.${planned.verb}`)}, {when(
            planned.instant,
          )}{#if !planned.goes}; <span class="text-straw">{t("entry.willBeHeld")}</span>{/if}
        </p>
        {#if session.may("release")}
          <Button class="mt-1" onclick={() => cancel(planned.dispatch)}>{t("entry.cancel")}</Button>
        {/if}
      {/each}
    </section>
  {/if}
  {#if entry.path}
    <p>
      {t("entry.out")}
      {#if session.setup?.site}<a href="{session.setup.site}{entry.path}" target="_blank" rel="noopener"
          >{entry.path}</a
        >{:else}{entry.path}{/if}
    </p>
  {/if}
  {#if entry.warnings.length}
    <section>
      <h2 class="font-sans font-semibold text-straw">{t("entry.warnings")}</h2>
      {#each entry.warnings as warning (warning)}<p>{warning}</p>{/each}
    </section>
  {/if}
  {#if entry.menus.length}
    <section>
      <h2 class="font-sans font-semibold">{t("entry.menus")}</h2>
      <ul>
        {#each entry.menus as one (one.id)}<li>
            {#if one.id}<a href="/entries/{one.id}/{entry.source_locale}">{one.title}</a
              >{:else}{one.title}{/if}
          </li>{/each}
      </ul>
    </section>
  {/if}
  {#if shownWhole}<ShownIn id={entry.id} title={entry.title} />{/if}
  {#if entry.referred_by.length && !shownWhole}
    <section>
      <h2 class="font-sans font-semibold">{t("entry.refersTo")}</h2>
      <ul>
        {#each entry.referred_by as one (one.id)}<li>
            {#if one.id}<a href="/entries/{one.id}/{entry.source_locale}">{one.title}</a
              >{:else}{one.title}{/if}
          </li>{/each}
      </ul>
    </section>
  {/if}
  {#if entry.revision}
    <p class="text-sm text-moss">
      {t("entry.revision", {
        number: entry.revision.number,
        when: when(entry.revision.at),
        by: entry.revision.author,
      })}
    </p>
  {/if}
</div>
