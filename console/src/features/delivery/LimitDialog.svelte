<script lang="ts">
  import "../../messages/release";
  import { createQuery, useQueryClient } from "@tanstack/svelte-query";
  import { untrack } from "svelte";
  import { api, sure, type Entry } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { listed } from "../../lib/lists";
  import { toasts } from "../../lib/state/toasts.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Radio from "../../ui/Radio.svelte";

  /** Who may read an entry while it is out: everybody, or with a limit that holds at once. */
  let { entry, onClose }: { entry: Entry; onClose: () => void } = $props();
  type Limit = Entry["limit"];
  const queries = useQueryClient();
  const was = untrack(() => entry.limit);
  let way = $state<Limit["way"]>(was.way);
  let audiences = $state(was.audiences.join(", "));
  let phrase = $state("");
  let busy = $state(false);
  let error = $state<unknown>(null);
  const known = createQuery(() => ({
    queryKey: ["audiences"],
    queryFn: () => sure(api.GET("/api/audiences")),
  }));
  const ways = ["", "hidden", "locked"] as const;
  const names = $derived(listed(audiences));
  const more = $derived(known.data?.items.map((one) => one.name).filter((one) => !names.includes(one)) ?? []);
  const ready = $derived(
    way === "" || (way === "hidden" ? names.length > 0 : was.has_phrase || phrase.trim().length > 0),
  );

  async function put(limit: Pick<Limit, "way" | "audiences">, phrase: string): Promise<void> {
    await sure(
      api.PUT("/api/entries/{id}/limit", {
        params: { path: { id: entry.id } },
        body: { way: limit.way, audiences: limit.audiences, phrase },
      }),
    );
    await queries.invalidateQueries();
  }

  async function limit(): Promise<void> {
    busy = true;
    error = null;
    try {
      await put({ way, audiences: way ? names : [] }, way === "locked" ? phrase : "");
      onClose();
      toasts.offer(t(`limit.done_${way || "open"}`, { title: entry.title }), t("limit.undo"), () => {
        put(was, "").then(
          () => toasts.say(t("limit.undone", { title: entry.title })),
          (caught: unknown) => toasts.wrong(caught),
        );
      });
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open
  size="md"
  title={t("limit.title")}
  go={t("limit.go")}
  {busy}
  {ready}
  {error}
  onclose={onClose}
  onsubmit={limit}
>
  <p class="text-sm text-moss">{t("limit.about")}</p>
  <fieldset class="flex flex-col gap-3">
    <legend class="sr-only">{t("limit.title")}</legend>
    {#each ways as one (one)}
      <Radio name="limit" value={one} bind:group={way}>
        <span
          ><span class="block font-semibold">{t(`limit.way_${one || "open"}`)}</span>
          <span class="block text-sm text-moss">{t(`limit.way_${one || "open"}_about`)}</span></span
        >
      </Radio>
    {/each}
  </fieldset>
  {#if way === "locked"}
    <label class="flex flex-col gap-1"
      >{t(was.has_phrase ? "limit.newPhrase" : "limit.phrase")}<Input
        bind:value={phrase}
        maxlength={200}
        autocomplete="off"
      /><span class="text-sm text-moss"
        >{t(was.has_phrase ? "limit.newPhraseAbout" : "limit.phraseAbout")}</span
      ></label
    >
  {/if}
  {#if way}
    <label class="flex flex-col gap-1"
      >{t(way === "hidden" ? "limit.audiences" : "limit.audiencesToo")}<Input
        bind:value={audiences}
        list="known-audiences"
        autocomplete="off"
      /><span class="text-sm text-moss">{t("limit.audiencesAbout")}</span></label
    >
    <datalist id="known-audiences">
      {#each more as one (one)}<option value={[...names, one].join(", ")}></option>{/each}
    </datalist>
  {/if}
</FormDialog>
