<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import Badge from "../../ui/Badge.svelte";
  import Button from "../../ui/Button.svelte";
  import DateField from "../../ui/DateField.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure, type AssistantUndone } from "../../lib/api";
  import { instantIn, todayIn } from "../../lib/days";
  import { t, when } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { assistantsQuery } from "./queries";

  /** What assistants do: seen as a list, paused, and undone since an instant, with what that would come to said first. */
  const assistants = assistantsQuery();
  const queries = useQueryClient();
  const zone = session.me?.zone;
  let whose = $state("");
  let called = $state("");
  let pausing = $state(false);
  let undoing = $state(false);
  let reason = $state("");
  let since = $state("");
  let places = $state<AssistantUndone[] | null>(null);
  let done = $state(false);
  let busy = $state(false);
  let error = $state<unknown>(null);
  const path = $derived({ path: { handle: whose } });

  function choose(handle: string, name: string): void {
    [whose, called, reason, error, places, done] = [handle, name, "", null, null, false];
    since = `${todayIn(zone)}T00:00`;
  }

  async function trying(act: () => Promise<void>): Promise<void> {
    busy = true;
    error = null;
    try {
      await act();
      await queries.invalidateQueries({ queryKey: ["assistants"] });
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  function pause(): Promise<void> {
    return trying(async () => {
      await sure(api.POST("/api/assistants/{handle}/pause", { params: path, body: { reason } }));
      pausing = false;
    });
  }

  async function resume(handle: string): Promise<void> {
    choose(handle, "");
    await trying(async () => {
      await sure(api.POST("/api/assistants/{handle}/resume", { params: path }));
    });
    if (error) toasts.wrong(error);
  }

  /** First what it would come to, then it is done. */
  function undo(): Promise<void> {
    const body = { since: instantIn(zone, since).toISOString() };
    return trying(async () => {
      if (places === null) {
        places = (await sure(api.POST("/api/assistants/{handle}/undo/check", { params: path, body }))).items;
        return;
      }
      places = (await sure(api.POST("/api/assistants/{handle}/undo", { params: path, body }))).items;
      done = true;
      await queries.invalidateQueries();
    });
  }

  const go = $derived(
    done || places?.length === 0 ? "" : places === null ? t("assistants.look") : t("assistants.undoNow"),
  );
</script>

<section class="flex flex-col gap-2 pt-6" aria-labelledby="assistants">
  <h2 id="assistants" class="text-lg font-semibold">{t("assistants.title")}</h2>
  <p class="max-w-3xl text-sm text-moss">{t("assistants.about")}</p>
  {#if assistants.error}<Trouble error={assistants.error} />
  {:else if !assistants.data}<Waiting />
  {:else}
    <ul class="flex flex-col gap-2" aria-labelledby="assistants">
      {#each assistants.data.items as one (one.handle)}
        <li class="sheet flex flex-wrap items-center gap-3 px-4 py-3">
          <div class="min-w-0 flex-1 basis-64">
            <p class="font-semibold">
              {one.name}
              {#if one.paused_at}<Badge>{t("assistants.paused")}</Badge>{/if}
            </p>
            <p class="text-sm text-moss">
              {one.last_at ? t("assistants.last", { when: when(one.last_at) }) : t("assistants.never")} · {t(
                "assistants.acts",
                { count: one.acts },
              )} · {t("assistants.started", { count: one.started })}
            </p>
            {#if one.paused_at}
              <p class="text-sm">
                {t("assistants.pausedBy", {
                  name: one.paused_by,
                  when: when(one.paused_at),
                })}{#if one.reason}: {one.reason}{/if}
              </p>
            {/if}
          </div>
          <a
            class="text-sm"
            href="/set-up/log?person={one.handle}"
            aria-label={t("assistants.didOf", { name: one.name })}>{t("assistants.did")}</a
          >
          {#if one.paused_at}
            <Button
              aria-label={t("assistants.resumeOf", { name: one.name })}
              onclick={() => resume(one.handle)}>{t("assistants.resume")}</Button
            >
          {:else}
            <Button
              aria-label={t("assistants.pauseOf", { name: one.name })}
              onclick={() => {
                choose(one.handle, one.name);
                pausing = true;
              }}>{t("assistants.pause")}</Button
            >
          {/if}
          <Button
            aria-label={t("assistants.undoOf", { name: one.name })}
            onclick={() => {
              choose(one.handle, one.name);
              undoing = true;
            }}>{t("assistants.undo")}</Button
          >
        </li>
      {:else}<li class="text-moss">{t("assistants.none")}</li>{/each}
    </ul>
  {/if}
</section>

<FormDialog
  bind:open={pausing}
  title={t("assistants.pauseOf", { name: called })}
  go={t("assistants.pauseNow")}
  {busy}
  {error}
  onsubmit={pause}
>
  <label class="flex flex-col gap-1 text-sm"
    >{t("assistants.why")}<Input bind:value={reason} maxlength={500} /></label
  >
  <p class="text-sm text-moss">{t("assistants.pauseAbout")}</p>
</FormDialog>

<FormDialog
  bind:open={undoing}
  title={t("assistants.undoOf", { name: called })}
  size="lg"
  {go}
  back={done ? t("assistants.close") : undefined}
  {busy}
  {error}
  ready={!!since}
  onsubmit={undo}
>
  <DateField
    time
    label={t("assistants.since")}
    bind:value={since}
    readonly={done}
    onvalue={() => (places = done ? places : null)}
  />
  <p class="text-sm text-moss">{t("assistants.undoAbout")}</p>
  {#if places}
    <p role="status" class="font-semibold">
      {places.length === 0
        ? t("assistants.nothing")
        : t(done ? "assistants.undone" : "assistants.would", { count: places.length })}
    </p>
    <ul class="max-h-72 divide-y overflow-y-auto" aria-label={t("assistants.places")}>
      {#each places as one (one.id + one.locale + one.strand)}
        <li class="flex flex-wrap gap-x-3 py-2 text-sm">
          <a
            class="font-semibold"
            href="/entries/{one.id}/{one.shown_in}{one.strand === 'draft'
              ? ''
              : `/strands/${encodeURIComponent(one.strand)}`}">{one.title || t("list.untitled")}</a
          >
          <span class="text-moss">{one.locale === "*" ? t("assistants.shared") : one.locale}</span>
          {#if one.strand !== "draft"}<span class="text-moss">{one.strand}</span>{/if}
          <span
            >{t(`assistants.is_${one.outcome.replace(" ", "_")}`)}{#if one.why}: {one.why}{/if}</span
          >
        </li>
      {/each}
    </ul>
  {/if}
</FormDialog>
