<script lang="ts">
  import { api, sure, type Entry } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { focusMark } from "../../lib/state/preview.svelte";
  import Button from "../../ui/Button.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";

  /** The gate ahead: what it asks, what is missing, who decides, and overriding it. */
  interface Props {
    entry: Entry;
    onEntry: (entry: Entry) => void;
  }
  let { entry, onEntry }: Props = $props();
  const gate = $derived(entry.gate);
  let asks = $state(false);
  let reason = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);
  const lacking = $derived(gate?.unmet ?? []);
  const number = $derived(
    entry.review?.outcome === "waiting" ? entry.review.revision : (entry.revision?.number ?? 0),
  );

  async function override(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      const params = { path: { id: entry.id, locale: entry.locale } };
      const body = {
        stage: gate!.stage,
        revision: number,
        common_revision: gate!.common_revision ?? 0,
        reason,
      };
      onEntry(await sure(api.POST("/api/entries/{id}/{locale}/override", { params, body })));
      asks = false;
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

{#if gate}
  <section>
    <h2 class="font-sans font-semibold">{t("gate.ahead", { stage: gate.label })}</h2>
    {#if lacking.length}
      <ul class="ms-4 list-disc">
        {#each lacking as one (one.code + one.where + one.what)}
          <li>
            {one.what}
            {#if one.code === "missing" || one.code === "too-long"}<Button
                look="link"
                onclick={() => focusMark(one.where)}>{t("gate.there")}</Button
              >{:else if one.where.length === 36}<a href="/entries/{one.where}/{entry.source_locale}"
                >{t("gate.there")}</a
              >{/if}
          </li>
        {/each}
      </ul>
    {:else}
      <p class="text-moss">{t("gate.holds")}</p>
    {/if}
    {#if gate.sign_offs}<p class="text-sm text-moss">
        {t("gate.signed", { given: gate.given.length, count: gate.sign_offs, who: gate.given.join(", ") })}
      </p>{/if}
    {#if gate.moved.length}
      <p class="font-semibold text-straw">
        {t(gate.embedded === "hold" ? "gate.movedHold" : "gate.movedWarn", { what: gate.moved.join(", ") })}
      </p>
    {/if}
    {#if entry.deciders.length}<p>{t("gate.deciders", { who: entry.deciders.join(", ") })}</p>
    {:else if entry.review?.outcome === "waiting" && gate.given.length < gate.sign_offs}<p
        class="font-semibold text-straw"
      >
        {t("gate.nobody")}
      </p>{/if}
    {#each entry.overrides as one, n (n)}
      <p class="border-s-2 border-straw ps-3">
        {t("gate.overridden", { by: one.by, when: when(one.at), revision: one.revision, stage: one.stage })}
        {t("quoted", { text: one.reason })}
      </p>
    {/each}
    {#if gate.may_override && lacking.length}
      <Button
        class="mt-1"
        onclick={() => {
          reason = "";
          error = null;
          asks = true;
        }}>{t("gate.override")}</Button
      >
    {/if}
    <p class="pt-1 text-sm text-moss">{t("gate.follows", { why: entry.workflow.why })}</p>
  </section>
{/if}

<FormDialog
  bind:open={asks}
  title={t("gate.override")}
  go={t("gate.overrideGo")}
  {busy}
  ready={!!reason.trim()}
  {error}
  onsubmit={override}
>
  <p>{t("gate.overrideAbout", { revision: number, stage: gate?.label })}</p>
  <ul class="ms-4 list-disc">
    {#each lacking as one (one.code + one.where + one.what)}<li>{one.what}</li>{/each}
  </ul>
  <label class="flex flex-col gap-1"
    >{t("gate.reason")}<Textarea rows={2} required bind:value={reason} /></label
  >
</FormDialog>
