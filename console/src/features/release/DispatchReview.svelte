<script lang="ts">
  import "../../messages/release";
  import { api, sure, type Dispatch, type MoveLine } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import { offers } from "./states";

  /** The review of a dispatch as one: submitted, signed off, sent back. */
  interface Props {
    one: Dispatch;
    /** What it brings, with what each misses. */
    moves: MoveLine[];
    done: (act: () => Promise<unknown>) => Promise<void>;
  }
  let { one, moves, done }: Props = $props();
  type Asking = "" | "submit" | "sign" | "sendBack";
  let asking = $state<Asking>("");
  let words = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);
  const params = $derived({ path: { id: one.id } });
  const review = $derived(one.review);
  const waiting = $derived(review?.outcome === "waiting");
  const unsigned = $derived(moves.filter((move) => move.unmet.some((u) => u.code === "sign-offs")));
  /** What is signed off: what was shown when that was begun, in those revisions. */
  let looked = $state.raw<MoveLine[]>([]);
  const said = $derived(review && (review.reason || review.note));

  function begin(what: Asking): void {
    words = "";
    error = null;
    looked = unsigned;
    asking = what;
  }

  async function go(): Promise<void> {
    busy = true;
    error = null;
    try {
      if (asking === "submit")
        await sure(api.POST("/api/dispatches/{id}/submit", { params, body: { note: words } }));
      else if (asking === "sign")
        await sure(
          api.POST("/api/dispatches/{id}/sign", {
            params,
            body: {
              moves: looked.map(({ id, locale, after }) => ({ id, locale, revision: after ?? 0 })),
              note: words,
            },
          }),
        );
      else await sure(api.POST("/api/dispatches/{id}/send-back", { params, body: { reason: words } }));
      toasts.say(t(`dispatch.review.did_${asking}`, { name: one.name }));
      asking = "";
      await done(async () => {});
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  const takeBack = () => done(() => sure(api.POST("/api/dispatches/{id}/take-back", { params })));
</script>

{#if one.state !== "failed" && (review || unsigned.length)}
  <section class="sheet mb-3 flex flex-col gap-2 p-4" aria-labelledby="review">
    <h2 id="review" class="text-lg font-semibold">{t("dispatch.review.title")}</h2>
    {#if review && review.outcome !== "replaced"}
      <p>
        {t(`dispatch.review.${review.outcome.replace(" ", "_")}`, {
          by: review.decided_by || review.by,
          when: when(review.decided_at || review.at),
        })}
      </p>
      {#if said}<p class="ps-4 whitespace-pre-line text-moss">{said}</p>{/if}
    {/if}
    {#if unsigned.length}<p class="text-moss">
        {t("dispatch.review.misses", { count: new Set(unsigned.map((move) => move.id)).size })}
      </p>{/if}
    <div class="flex flex-wrap gap-2">
      {#if unsigned.length && offers(one, "sign")}
        <Button look={waiting ? "main" : "plain"} onclick={() => begin("sign")}
          >{t("dispatch.review.sign")}</Button
        >
      {/if}
      {#if offers(one, "send-back")}
        <Button onclick={() => begin("sendBack")}>{t("dispatch.review.sendBack")}</Button>
      {/if}
      {#if unsigned.length && !waiting && offers(one, "submit")}
        <Button look="main" onclick={() => begin("submit")}>{t("dispatch.review.submit")}</Button>
      {/if}
      {#if offers(one, "take-back")}<Button onclick={takeBack}>{t("dispatch.review.takeBack")}</Button>{/if}
    </div>
  </section>
{/if}

<FormDialog
  open={asking !== ""}
  title={asking ? t(`dispatch.review.${asking}Title`, { name: one.name }) : ""}
  go={asking ? t(`dispatch.review.${asking}`) : ""}
  {busy}
  {error}
  ready={asking !== "sendBack" || words.trim() !== ""}
  onclose={() => (asking = "")}
  onsubmit={go}
>
  {#if asking === "sign"}
    <p class="text-moss">{t("dispatch.review.signAbout")}</p>
    <ul class="list-disc ps-6">
      {#each looked as move (move.id + move.locale)}<li>
          {move.title || t("list.untitled")} ({move.locale === "*" ? t("plan.shared") : move.locale})
        </li>{/each}
    </ul>
  {/if}
  <label class="flex flex-col gap-1"
    >{t(asking === "sendBack" ? "entry.reason" : asking === "submit" ? "entry.note" : "entry.noteOptional")}
    <Textarea rows={3} bind:value={words} required={asking === "sendBack"} /></label
  >
</FormDialog>
