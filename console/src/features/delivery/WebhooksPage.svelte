<script lang="ts">
  import { tick } from "svelte";
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Webhook } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import { stageNames } from "../../lib/names";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Alert from "../../ui/Alert.svelte";
  import Badge from "../../ui/Badge.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { sectionsQuery } from "../release/timetable";
  import { USUAL, webhooksQuery } from "./webhooks";
  import WebhookLog from "./WebhookLog.svelte";

  /** Who is told of events over HTTP: adding, trying, switching off, another secret, and what was sent. */
  const queries = useQueryClient();
  const found = webhooksQuery();
  const KINDS = [...USUAL, "dispatch.", "review.", "entry.", "comment.", "job."];
  let open = $state(false);
  let changing = $state.raw<Webhook | null>(null);
  const nothing = () => ({
    name: "",
    url: "",
    kinds: [...USUAL],
    types: [] as string[],
    sections: [] as string[],
    stages: [] as string[],
  });
  let asked = $state(nothing());
  let secret = $state<{ name: string; words: string } | null>(null);
  let said = $state<{ id: string; words: string; well: boolean } | null>(null);
  let looked = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);
  /** What narrows it, each with what can be chosen. */
  const sections = sectionsQuery();
  const limits = $derived([
    {
      name: "types" as const,
      options: (session.setup?.types ?? []).map((one) => [one.name, one.label] as const),
    },
    { name: "sections" as const, options: [...(sections.data ?? [])] },
    { name: "stages" as const, options: [...stageNames()] },
  ]);
  /** What somebody chose elsewhere stays, though it is none of the usual ones. */
  const kinds = $derived([...new Set([...KINDS, ...(changing?.kinds ?? [])])]);

  const called = (kind: string) =>
    KINDS.includes(kind) ? t(`webhooks.kind.${kind.replace(/\.$/, "").replace(".", "_")}`) : kind;

  const all = (some: readonly string[]) => USUAL.every((kind) => some.includes(kind));

  /** What somebody is told of, in words: the usual ones together. */
  function toldOf(some: readonly string[]): string {
    const rest = all(some) ? some.filter((kind) => !USUAL.includes(kind)) : some;
    return [...(all(some) ? [t("webhooks.seen")] : []), ...rest.map(called)].join(", ");
  }

  function begin(one: Webhook | null): void {
    changing = one;
    asked = one
      ? {
          name: one.name,
          url: one.url,
          kinds: [...one.kinds],
          types: [...one.types],
          sections: [...one.sections],
          stages: [...one.stages],
        }
      : nothing();
    error = null;
    open = true;
  }

  async function keep(): Promise<void> {
    busy = true;
    error = null;
    try {
      if (changing) {
        const params = { path: { id: changing.id } };
        await sure(api.PATCH("/api/webhooks/{id}", { params, body: asked }));
        toasts.say(t("webhooks.kept", { name: asked.name }));
      } else {
        const made = await sure(api.POST("/api/webhooks", { body: asked }));
        secret = { name: made.name, words: made.secret };
      }
      open = false;
      await queries.invalidateQueries({ queryKey: ["webhooks"] });
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  async function done(act: () => Promise<unknown>): Promise<void> {
    try {
      await act();
      await queries.invalidateQueries({ queryKey: ["webhooks"] });
    } catch (caught) {
      toasts.wrong(caught);
    }
  }

  const to = (one: Webhook) => ({ path: { id: one.id } });
  const turn = (one: Webhook) =>
    done(() =>
      sure(api.POST("/api/webhooks/{id}/switch", { params: to(one), body: { on: one.state === "off" } })),
    );

  function anew(one: Webhook): Promise<void> {
    return done(async () => {
      const body = { seconds: 86_400 };
      const made = await sure(api.POST("/api/webhooks/{id}/secret", { params: to(one), body }));
      secret = { name: one.name, words: made.secret };
    });
  }

  async function attempt(one: Webhook): Promise<void> {
    said = { id: one.id, words: t("webhooks.trying"), well: true };
    try {
      const answer = await sure(api.POST("/api/webhooks/{id}/try", { params: to(one) }));
      const words = answer.answers
        ? t("webhooks.answers", { status: answer.status, took: answer.took })
        : answer.trouble;
      said = { id: one.id, words, well: answer.answers };
    } catch (caught) {
      said = null;
      toasts.wrong(caught);
    }
  }

  async function end(one: Webhook): Promise<void> {
    if (!confirm(t("webhooks.sure", { name: one.name }))) return;
    if (looked === one.id) {
      looked = "";
      await tick();
    }
    // What was sent is asked for no more, as there is nothing of it soon.
    await queries.cancelQueries({ queryKey: ["webhooks", one.id] });
    await done(() => sure(api.DELETE("/api/webhooks/{id}", { params: to(one) })));
  }
</script>

<svelte:head><title>{t("webhooks.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<div class="flex flex-wrap items-center gap-3 pb-1">
  <h1 class="text-2xl font-semibold">{t("webhooks.title")}</h1>
  <Button class="ms-auto" look="main" onclick={() => begin(null)}>{t("webhooks.new")}</Button>
</div>
<p class="max-w-3xl pb-4 text-moss">{t("webhooks.about")}</p>
{#if secret}
  <div class="max-w-4xl pb-4">
    <Alert role="status">
      <p>{t("webhooks.secret", { name: secret.name })}</p>
      <p class="flex flex-wrap items-center gap-3 pt-1">
        <code class="break-all" dir="ltr">{secret.words}</code>
        <Button onclick={() => (secret = null)}>{t("webhooks.haveIt")}</Button>
      </p>
    </Alert>
  </div>
{/if}
{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting />
{:else}
  <ul class="flex max-w-4xl flex-col gap-2" aria-label={t("webhooks.title")}>
    {#each found.data.items as one (one.id)}
      <li class="sheet px-4 py-3">
        <div class="flex flex-wrap items-center gap-x-3 gap-y-2">
          <div class="min-w-0 flex-1 basis-64">
            <p class="flex flex-wrap items-center gap-2 font-semibold">
              {one.name}
              <Badge tone={one.state === "on" ? "hedge" : "straw"}>{t(`webhooks.${one.state}`)}</Badge>
            </p>
            <p class="text-sm break-all text-moss" dir="ltr">{one.url}</p>
            <p class="text-sm text-moss">
              {t("webhooks.toldOf", { kinds: toldOf(one.kinds) })}{one.types.length
                ? ` (${one.types.join(", ")})`
                : ""}{#if one.waiting}&nbsp;· {t("webhooks.waiting", { count: one.waiting })}{/if}
              {#if one.both_until}&nbsp;· {t("webhooks.both", { when: when(one.both_until) })}{/if}
            </p>
            {#if one.trouble}<p class="text-sm text-straw">{one.trouble}</p>{/if}
            {#if said?.id === one.id}<p class={["text-sm", !said.well && "font-semibold"]} role="status">
                {said.words}
              </p>{/if}
          </div>
          <Button onclick={() => attempt(one)}
            >{t("webhooks.try")}<span class="sr-only"> {one.name}</span></Button
          >
          <Button aria-expanded={looked === one.id} onclick={() => (looked = looked === one.id ? "" : one.id)}
            >{t("webhooks.sent")}<span class="sr-only"> {one.name}</span></Button
          >
          <Button onclick={() => begin(one)}
            >{t("webhooks.change")}<span class="sr-only"> {one.name}</span></Button
          >
          <Button onclick={() => turn(one)}
            >{t(one.state === "on" ? "webhooks.switchOff" : "webhooks.switchOn")}<span class="sr-only">
              {one.name}</span
            ></Button
          >
          <Button onclick={() => anew(one)}
            >{t("webhooks.anew")}<span class="sr-only"> {one.name}</span></Button
          >
          <Button onclick={() => end(one)}>{t("webhooks.end")}<span class="sr-only"> {one.name}</span></Button
          >
        </div>
        {#if looked === one.id}<WebhookLog id={one.id} />{/if}
      </li>
    {:else}<li class="text-moss">{t("webhooks.none")}</li>{/each}
  </ul>
{/if}

<FormDialog
  bind:open
  title={changing ? t("webhooks.changing") : t("webhooks.adding")}
  size="md"
  go={t("webhooks.keep")}
  {busy}
  {error}
  ready={asked.name.trim() !== "" && asked.url.trim() !== "" && asked.kinds.length > 0}
  onsubmit={keep}
>
  <label class="flex flex-col gap-1"
    >{t("webhooks.name")}<Input bind:value={asked.name} maxlength={120} required /></label
  >
  <label class="flex flex-col gap-1"
    >{t("webhooks.url")}<Input type="url" dir="ltr" bind:value={asked.url} maxlength={500} required />
    <span class="text-sm text-moss">{t("webhooks.urlAbout")}</span></label
  >
  <fieldset class="flex flex-col gap-1.5">
    <legend class="pb-1 font-semibold">{t("webhooks.kinds")}</legend>
    <Checkbox
      checked={all(asked.kinds)}
      onchange={() => {
        const others = asked.kinds.filter((kind) => !USUAL.includes(kind));
        asked.kinds = all(asked.kinds) ? others : [...USUAL, ...others];
      }}>{t("webhooks.seen")}</Checkbox
    >
    {#each kinds as kind (kind)}
      <div class={USUAL.includes(kind) ? "ps-6" : ""}>
        <Checkbox
          checked={asked.kinds.includes(kind)}
          onchange={() => (asked.kinds = toggled(asked.kinds, kind))}
          >{called(kind)}
          <code class="text-sm text-moss">{kind}</code></Checkbox
        >
      </div>
    {/each}
  </fieldset>
  {#each limits.filter((one) => one.options.length) as limit (limit.name)}
    <fieldset class="flex flex-wrap gap-x-5 gap-y-1.5">
      <legend class="pb-1 font-semibold">{t(`webhooks.only_${limit.name}`)}</legend>
      {#each limit.options as [value, words] (value)}
        <Checkbox
          checked={asked[limit.name].includes(value)}
          onchange={() => (asked[limit.name] = toggled(asked[limit.name], value))}>{words}</Checkbox
        >
      {/each}
    </fieldset>
  {/each}
</FormDialog>
