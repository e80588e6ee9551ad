<script lang="ts">
  import "../../messages/setup";
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { blockNavigation } from "sv-router";
  import TypeForm from "./TypeForm.svelte";
  import TypeImpact from "./TypeImpact.svelte";
  import type { Definition } from "./types";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { named, slim, type Draft } from "../../lib/types";
  import { navigate, route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Textarea from "../../ui/Textarea.svelte";

  const isSet = $derived(route.pathname.startsWith("/set-up/field-sets/"));
  const name = $derived(String((route.params as { name?: string }).name ?? ""));
  const fresh = $derived(name === "new");
  const found = $derived(isSet ? session.setup?.sets.find((one) => one.name === name) : session.type(name));
  let draft = $state.raw<Definition>({ name: "", fields: [] });
  let base = $state("");
  let asFile = $state(false);
  let text = $state("");
  let busy = $state(false);
  const queries = useQueryClient();
  const dirty = $derived(JSON.stringify(sent()) !== base);
  const mayChange = $derived(session.may("configure"));

  $effect(() => {
    const one = found;
    const own = ((one?.fields ?? []) as Draft[]).filter((field) => isSet || !field.set).map(slim);
    const plain = structuredClone($state.snapshot(one)) as Partial<Definition> | undefined;
    draft = fresh
      ? {
          name: "",
          label: "",
          workflow: "standard",
          fields: isSet ? [] : [{ name: "title", kind: "line", label: t("start.name"), required: true }],
        }
      : { ...(plain ?? {}), name, fields: own };
    base = untrack(() => JSON.stringify(sent()));
    untrack(() => check.forget());
  });

  function sent(): Record<string, unknown> {
    const { fields, ...rest } = draft;
    const out: Record<string, unknown> = { name: draft.name, fields: fields.map(slim) };
    for (const [key, value] of Object.entries(rest)) {
      const usual =
        value === "" || value === undefined || value === null || (Array.isArray(value) && !value.length);
      if (!usual && value !== (key === "translated" || key === "public")) out[key] = value;
    }
    return out;
  }

  function set(part: Partial<Definition>): void {
    draft = { ...draft, ...part };
    if (fresh && part.label !== undefined) draft = { ...draft, name: named(part.label, []) };
  }

  // What the change would do is said while it is being made.
  const check = whileTyped(
    () => {
      const body = sent() as { name: string };
      return dirty && mayChange && body.name ? body : null;
    },
    (body) => sure(api.POST(isSet ? "/api/field-sets/check" : "/api/types/check", { body })),
  );

  $effect(() =>
    blockNavigation({
      beforeUnload: () => !dirty || !mayChange,
      onNavigate: () => !dirty || !mayChange || busy || confirm(t("types.leave")),
    }),
  );

  async function put(): Promise<void> {
    busy = true;
    try {
      const body = sent() as { name: string };
      const made = await sure(api.PUT(isSet ? "/api/field-sets" : "/api/types", { body }));
      session.setup = await sure(api.GET("/api/setup"));
      toasts.say(t("types.done", { label: made.label, version: made.version }));
      await queries.invalidateQueries();
      if (fresh) await navigate(`/set-up/${isSet ? "field-sets" : "types"}/${made.name}` as "/");
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }

  async function remove(): Promise<void> {
    if (!confirm(t("types.sureDelete", { label: draft.label ?? name }))) return;
    busy = true;
    try {
      await sure(
        isSet
          ? api.DELETE("/api/field-sets/{name}", { params: { path: { name } } })
          : api.DELETE("/api/types/{name}", { params: { path: { name } } }),
      );
      toasts.say(t("types.deleted", { label: draft.label ?? name }));
      session.setup = await sure(api.GET("/api/setup"));
      await navigate("/set-up");
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }

  function toFile(): void {
    asFile = !asFile;
    text = JSON.stringify(sent(), null, 2);
  }

  function fromFile(): void {
    try {
      const read = JSON.parse(text) as Definition;
      draft = { ...read, name: fresh ? read.name : name, fields: read.fields ?? [] };
      asFile = false;
    } catch (caught) {
      check.wrong(caught);
    }
  }

  async function schema(): Promise<void> {
    const response = await fetch(`/api/types/${name}/schema`);
    save(`${name}.schema.json`, JSON.stringify(await response.json(), null, 2));
  }

  function save(file: string, content: string): void {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([content], { type: "application/json" }));
    link.download = file;
    link.click();
    URL.revokeObjectURL(link.href);
  }
</script>

<svelte:head><title>{draft.label || t("setUp.newType")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
{#if !fresh && !found}
  <h1 class="text-2xl font-semibold">{t("missing.title")}</h1>
  <p class="text-moss">{t("types.notThere", { name })}</p>
{:else}
  <div class="flex flex-wrap items-center gap-2 pb-3">
    <h1 class="me-auto text-2xl font-semibold">
      {draft.label || t(isSet ? "setUp.newSet" : "setUp.newType")}
    </h1>
    <Button onclick={toFile} aria-pressed={asFile}>{t("types.asFile")}</Button>
    {#if !isSet && !fresh}<Button onclick={schema}>{t("types.schema")}</Button>{/if}
    {#if mayChange && !fresh}<Button disabled={busy} onclick={remove}>{t("types.delete")}</Button>{/if}
    {#if mayChange}
      <Button look="main" disabled={busy || !dirty || check.found?.refused || !draft.name} onclick={put}
        >{t(fresh ? "types.make" : "types.change")}</Button
      >
    {/if}
  </div>
  <div class="grid gap-6 lg:grid-cols-[minmax(0,42rem)_minmax(17rem,1fr)]">
    <form class="flex min-w-0 flex-col gap-5" onsubmit={(event) => event.preventDefault()}>
      {#if asFile}
        <label class="flex flex-col gap-1"
          >{t("types.file")}<Textarea
            class="font-mono text-sm"
            rows={24}
            spellcheck="false"
            bind:value={text}
          /></label
        >
        <div class="flex flex-wrap gap-2">
          <Button onclick={() => save(`${draft.name || "type"}.json`, text)}>{t("types.export")}</Button>
          {#if mayChange}<Button onclick={fromFile}>{t("types.take")}</Button>{/if}
        </div>
      {:else}
        <TypeForm {draft} {isSet} {fresh} disabled={!mayChange} {set} />
      {/if}
    </form>
    <TypeImpact impact={check.found} error={check.error} {dirty} {isSet} />
  </div>
{/if}
