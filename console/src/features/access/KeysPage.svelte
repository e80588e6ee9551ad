<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { keysQuery, rolesQuery } from "./queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { stageNames } from "../../lib/names";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import { listed, toggled } from "../../lib/lists";
  import DateField from "../../ui/DateField.svelte";
  import Assistants from "./Assistants.svelte";

  const keys = keysQuery();
  const roles = rolesQuery();
  const queries = useQueryClient();
  let name = $state("");
  let role = $state("reader");
  let kind = $state<"program" | "assistant">("program");
  let stages = $state<string[]>(["release"]);
  let expires = $state("");
  let audiences = $state("");
  let aMinute = $state<number | null>(null);
  let secret = $state("");
  let error = $state<unknown>(null);
  const all = $derived([...stageNames()]);

  async function issue(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    error = null;
    try {
      const body = { name, role, kind, stages, expires, a_minute: aMinute, audiences: listed(audiences) };
      const made = await sure(api.POST("/api/keys", { body }));
      secret = made.secret;
      name = "";
      await queries.invalidateQueries({ queryKey: ["keys"] });
      await queries.invalidateQueries({ queryKey: ["assistants"] });
    } catch (caught) {
      error = caught;
    }
  }

  async function end(id: number, called: string): Promise<void> {
    if (!confirm(t("keysPage.sure", { name: called }))) return;
    try {
      await sure(api.DELETE("/api/keys/{id}", { params: { path: { id } } }));
      await queries.invalidateQueries({ queryKey: ["keys"] });
      await queries.invalidateQueries({ queryKey: ["assistants"] });
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

<svelte:head><title>{t("keysPage.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("keysPage.title")}</h1>
<p class="max-w-3xl pb-4 text-moss">{t("keysPage.about")}</p>
{#if keys.error}<Trouble error={keys.error} />
{:else if !keys.data}<Waiting />
{:else}
  <div class="grid max-w-6xl gap-6 lg:grid-cols-[minmax(0,1fr)_24rem]">
    <div>
      <ul class="flex flex-col gap-2" aria-label={t("keysPage.title")}>
        {#each keys.data.items as key (key.id)}
          <li class="sheet flex flex-wrap items-center gap-3 px-4 py-3">
            <div class="min-w-0 flex-1 basis-64">
              <p class="font-semibold">{key.name} <code class="text-sm text-moss">{key.start}…</code></p>
              <p class="text-sm text-moss">
                {t(`keysPage.${key.kind}`)} · {key.roles.join(", ")} · {t("keysPage.sees", {
                  stages: key.stages.join(", "),
                })}{#if key.audiences.length}&nbsp;· {t("keysPage.readsFor", {
                    audiences: key.audiences.join(", "),
                  })}{/if}{#if key.a_minute}&nbsp;· {t("keysPage.rate", { count: key.a_minute })}{/if} · {t(
                  "keysPage.since",
                  { when: when(key.created_at) },
                )}{#if key.expires_at}&nbsp;· {t(key.expired ? "keysPage.over" : "keysPage.until", {
                    when: when(key.expires_at),
                  })}{/if}
              </p>
            </div>
            <Button onclick={() => end(key.id, key.name)}>{t("keysPage.end")}</Button>
          </li>
        {:else}<li class="text-moss">{t("keysPage.none")}</li>{/each}
      </ul>
      <Assistants />
    </div>
    <form class="sheet flex flex-col gap-3 p-4" onsubmit={issue}>
      <h2 class="text-lg font-semibold">{t("keysPage.new")}</h2>
      {#if secret}
        <div class="border-s-4 border-s-straw ps-3" role="status">
          <p class="font-semibold">{t("keysPage.secret")}</p>
          <code class="break-all select-all">{secret}</code>
        </div>
      {/if}
      <label class="flex flex-col gap-1 text-sm"
        >{t("keysPage.name")}<Input required bind:value={name} /></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >{t("keysPage.kind")}
        <Select bind:value={kind}>
          <option value="program">{t("keysPage.program")}</option>
          <option value="assistant">{t("keysPage.assistant")}</option>
        </Select></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >{t("keysPage.role")}
        <Select bind:value={role}>
          {#each roles.data?.items ?? [] as one (one.name)}<option value={one.name}>{one.label}</option
            >{/each}
        </Select></label
      >
      <fieldset class="flex flex-wrap gap-3 text-sm">
        <legend class="pb-1">{t("keysPage.stages")}</legend>
        {#each all as [stage, label] (stage)}
          <label class="flex items-center gap-2"
            ><Checkbox
              checked={stages.includes(stage)}
              onchange={() => (stages = toggled(stages, stage))}
            />{label}</label
          >
        {/each}
      </fieldset>
      <p class="text-sm text-moss">{t("keysPage.first")}</p>
      <label class="flex flex-col gap-1 text-sm"
        >{t("keysPage.audiences")}<Input bind:value={audiences} autocomplete="off" /><span class="text-moss"
          >{t("keysPage.audiencesAbout")}</span
        ></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >{t("keysPage.aMinute")}<Input type="number" min={1} bind:value={aMinute} /></label
      >
      <DateField class="text-sm" label={t("keysPage.expires")} bind:value={expires} />
      {#if error}<Trouble {error} />{/if}
      <Button look="main" type="submit" class="self-start" disabled={!name.trim() || !stages.length}
        >{t("keysPage.issue")}</Button
      >
    </form>
  </div>
{/if}
