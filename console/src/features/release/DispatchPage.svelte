<script lang="ts">
  import { elsewhere } from "./wall";
  import { useQueryClient } from "@tanstack/svelte-query";
  import MoveList from "./MoveList.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { dispatchQuery } from "./queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import CloseCircleOutline from "flowbite-svelte-icons/CloseCircleOutline.svelte";

  const id = $derived((route.params as { id: string }).id);
  const found = dispatchQuery(() => id);
  const queries = useQueryClient();

  async function cancel(): Promise<void> {
    try {
      await sure(api.POST("/api/dispatches/{id}/cancel", { params: { path: { id } } }));
      await queries.invalidateQueries();
    } catch (error) {
      toasts.wrong(error);
    }
  }
</script>

<svelte:head><title>{found.data?.name ?? t("timetable.title")} – {t("app.name")}</title></svelte:head>
<p><a href="/timetable">{t("timetable.back")}</a></p>
{#if found.error}
  <Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}
  <Waiting />
{:else}
  {@const one = found.data}
  <h1 class="text-2xl font-semibold">{one.name}</h1>
  <p class="pb-4 text-moss">
    {t(`timetable.state.${one.state}`)} · {when(one.instant)}{elsewhere(one) ? ` (${elsewhere(one)})` : ""} · {t(
      "timetable.by",
      { by: one.by },
    )}
    {#if one.late_by_seconds}· {t("timetable.late", { seconds: Math.round(one.late_by_seconds) })}{/if}
  </p>
  {#if one.trouble && one.state === "planned"}
    <p class="sheet mb-3 border-s-4 border-s-straw p-3">{t("timetable.trouble", { trouble: one.trouble })}</p>
  {/if}
  {#each one.held as held, n (n)}
    <div class="sheet mb-3 border-s-4 border-s-straw p-3">
      <p class="font-semibold">{held.title}</p>
      {#each (held.unmet ?? []) as { what: string }[] as condition (condition.what)}<p>
          <CloseCircleOutline class="inline size-5 align-text-bottom" />
          {condition.what}
        </p>{/each}
    </div>
  {/each}
  <section class="sheet p-4" aria-labelledby="goes">
    <h2 id="goes" class="pb-2 text-lg font-semibold">{t("plan.goes")}</h2>
    <MoveList moves={one.moves} />
  </section>
  {#if one.state === "planned" && session.may("release")}
    <Button class="mt-4" onclick={cancel}>{t("timetable.cancel")}</Button>
  {/if}
{/if}
