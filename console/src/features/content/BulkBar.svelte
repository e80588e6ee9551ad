<script lang="ts">
  import Waiting from "../../ui/Waiting.svelte";
  import { api, once, sure } from "../../lib/api";
  import type { components } from "../../lib/api/schema";
  import { t } from "../../lib/i18n";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";

  interface Props {
    chosen: Set<string>;
    onDone: () => void;
    onClear: () => void;
  }
  let { chosen, onDone, onClear }: Props = $props();
  type Act = components["schemas"]["BulkAsk"]["act"];
  type Result = components["schemas"]["BulkResult"];
  let asking = $state<Act | "">("");
  let open = $state(false);
  let adding = $state(false);
  let spreading = $state(false);
  let collecting = $state(false);
  let tag = $state("");
  let note = $state("");
  let result = $state.raw<Result | null>(null);
  let busy = $state(false);
  const acts: { act: Act; verb: string }[] = [
    { act: "submit", verb: "submit" },
    { act: "release", verb: "release" },
    { act: "withdraw", verb: "release" },
    { act: "tag", verb: "write" },
    { act: "untag", verb: "write" },
    { act: "remove", verb: "write" },
  ];
  const words = $derived(asking === "tag" || asking === "untag");
  const ready = $derived(!words || tag.trim() !== "");
  const body = $derived({
    act: (asking || "tag") as Act,
    items: [...chosen].map((one) => ({ id: one.split("/")[0]!, locale: one.split("/")[1]! })),
    note,
    tag: tag.trim(),
    field: "",
  });

  function begin(act: Act): void {
    asking = act;
    tag = note = "";
    result = null;
    check.forget();
    open = true;
  }

  // What would happen to each is said before it is done.
  const check = whileTyped(
    () => (open && ready && !result ? body : null),
    (wanted) => sure(api.POST("/api/entries/bulk/check", { body: wanted })),
    { pause: 200, keeps: true },
  );

  async function go(): Promise<void> {
    busy = true;
    try {
      result = await sure(api.POST("/api/entries/bulk", { params: { header: once() }, body }));
      toasts.say(t("bulk.done", { done: result.done, refused: result.refused }));
      onDone();
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }
</script>

{#if chosen.size}
  <div
    class="sheet sticky bottom-3 z-20 mt-3 flex flex-wrap items-center gap-2 border-edge p-2 shadow-lg"
    role="region"
    aria-label={t("bulk.label")}
  >
    <span class="px-2 font-semibold" role="status">{t("bulk.count", { count: chosen.size })}</span>
    {#each acts.filter((one) => session.may(one.verb)) as one (one.act)}
      <Button onclick={() => begin(one.act)}>{t(`bulk.act_${one.act}`)}</Button>
    {/each}
    {#if session.may("write") || session.may("release")}
      <Button onclick={() => (adding = true)}>{t("dispatch.add")}</Button>
    {/if}
    {#if session.may("commission")}
      <Button onclick={() => (collecting = true)}>{t("more.collect")}</Button>
    {/if}
    {#if session.may("release") && chosen.size > 1}
      <Button onclick={() => (spreading = true)}>{t("spread.act")}</Button>
    {/if}
    <Button class="ms-auto" onclick={onClear}>{t("bulk.clear")}</Button>
  </div>
{/if}

{#if spreading}
  {#await import("../release/SpreadDialog.svelte") then { default: SpreadDialog }}
    <SpreadDialog items={body.items} onClose={() => (spreading = false)} onDone={onClear} />
  {/await}
{/if}
{#if collecting}
  {#await import("../translation/CollectDialog.svelte") then { default: CollectDialog }}
    {@const entries = [...new Set(body.items.map((one) => one.id))]}
    <CollectDialog {entries} onClose={() => (collecting = false)} onDone={onClear} />
  {/await}
{/if}
{#if adding}
  {#await import("../release/AddToDispatch.svelte") then { default: AddToDispatch }}
    <AddToDispatch items={body.items} onClose={() => (adding = false)} onDone={onClear} />
  {/await}
{/if}

<FormDialog
  bind:open
  title={asking ? t(`bulk.act_${asking}`) : ""}
  size="md"
  go={result ? "" : t("bulk.go", { count: check.found?.done ?? 0 })}
  back={t(result ? "bulk.close" : "start.cancel")}
  {busy}
  ready={ready && !!check.found?.done}
  error={check.error}
  onsubmit={go}
>
  {#if words}
    <label class="flex flex-col gap-1">{t("bulk.tag")}<Input bind:value={tag} /></label>
  {:else if asking === "submit"}
    <label class="flex flex-col gap-1">{t("entry.note")}<Input bind:value={note} /></label>
  {/if}
  {#if result ?? check.found}
    {@const shown = (result ?? check.found)!}
    <p class="font-semibold" role="status">
      {t(result ? "bulk.done" : "bulk.would", { done: shown.done, refused: shown.refused })}
    </p>
    <ul class="max-h-80 overflow-y-auto">
      {#each shown.items as item (item.id + item.locale)}
        <li class="border-t py-1.5">
          <span class="font-semibold" lang={item.locale}>{item.title || t("list.untitled")}</span>
          {#if item.done}<span class="text-moss">{item.what}</span>{:else}<span class="block text-straw"
              >{item.why} {item.remedy}</span
            >{/if}
        </li>
      {/each}
    </ul>
  {:else if ready && !check.error}
    <Waiting lines={3} />
  {/if}
</FormDialog>
