<script lang="ts">
  import Diff from "../content/Diff.svelte";
  import { api, sure, type WorkLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { compareQuery } from "../content/queries";
  import Button from "../../ui/Button.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";

  /**
   * What waits for a decision against what is out, with the shared fields that wait with it, and the decision: about exactly what is
   * shown. `onDone` hears what it was once it is made.
   */
  let { line, onDone }: { line: WorkLine; onDone: (how: "signed" | "sentBack") => void } = $props();
  const found = compareQuery(
    () => line.id,
    () => line.locale,
    () => "release",
    () => line.stage,
    () => String(line.revision),
  );
  let returning = $state(false);
  let reason = $state("");
  let busy = $state(false);
  let error = $state<unknown>(null);
  const params = $derived({ path: { id: line.id, locale: line.locale } });

  async function act(how: "signed" | "sentBack", call: () => Promise<unknown>): Promise<void> {
    busy = true;
    error = null;
    try {
      await call();
      onDone(how);
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  function sign(): void {
    const { revision, common_revision } = found.data!.after;
    const body = { revision: revision ?? line.revision, common_revision: common_revision ?? 0, note: "" };
    void act("signed", () => sure(api.POST("/api/entries/{id}/{locale}/sign", { params, body })));
  }
  function sendBack(event: SubmitEvent): void {
    event.preventDefault();
    void act("sentBack", () =>
      sure(api.POST("/api/entries/{id}/{locale}/send-back", { params, body: { reason } })),
    );
  }
</script>

<div class="mt-2 flex flex-col gap-3 border-t pt-3">
  {#if found.error}
    <Trouble error={found.error} again={() => found.refetch()} />
  {:else if !found.data}
    <Waiting lines={3} />
  {:else}
    <p class="text-sm text-moss">{found.data.before.label} → {found.data.after.label}</p>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex (it scrolls, also by keys) -->
    <div
      class="flex max-h-96 flex-col gap-3 overflow-y-auto"
      tabindex="0"
      role="region"
      aria-label={t("entry.tabCompare")}
    >
      {#each found.data.fields as field (field.field)}
        <section>
          <h4 class="font-sans text-sm font-semibold text-moss">{field.label}</h4>
          <Diff parts={field.parts} lang={line.locale} />
        </section>
      {:else}<p>{t("compare.same")}</p>{/each}
    </div>
  {/if}
  {#if error}<Trouble {error} />{/if}
  {#if returning}
    <form class="flex flex-col gap-2" onsubmit={sendBack}>
      <label class="flex flex-col gap-1 text-sm"
        >{t("entry.reason")}<Textarea rows={2} bind:value={reason} required /></label
      >
      <div class="flex flex-wrap gap-2">
        <Button type="submit" disabled={busy || !reason.trim()} {busy}>{t("entry.send-back")}</Button>
        <Button onclick={() => (returning = false)}>{t("start.cancel")}</Button>
      </div>
    </form>
  {:else}
    <div class="flex flex-wrap gap-2">
      <Button look="main" disabled={busy || !found.data} {busy} onclick={sign}>{t("entry.sign")}</Button>
      <Button disabled={busy} onclick={() => (returning = true)}>{t("myWork.sendBack")}</Button>
    </div>
  {/if}
</div>
