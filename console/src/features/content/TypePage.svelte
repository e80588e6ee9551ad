<script lang="ts">
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { blockNavigation } from "sv-router";
  import FieldsEditor from "./FieldsEditor.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { api, sure } from "../../lib/api";
  import type { components } from "../../lib/api/schema";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { named, slim, type Draft } from "../../lib/types";
  import { navigate, route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Textarea from "../../ui/Textarea.svelte";

  type Impact = components["schemas"]["Impact"];
  interface Definition {
    name: string;
    label?: string;
    help?: string;
    workflow?: string;
    title?: string;
    section?: boolean;
    single?: boolean;
    translated?: boolean;
    sets?: string[];
    internal?: string;
    pinned?: string;
    dated?: string;
    search_title?: string;
    meta_description?: string;
    search_picture?: string;
    site?: boolean;
    common?: boolean;
    menu?: boolean;
    layout?: string;
    retired?: boolean;
    read_only?: boolean;
    public?: boolean;
    version?: number;
    fields: Draft[];
  }
  const isSet = $derived(route.pathname.startsWith("/set-up/field-sets/"));
  const name = $derived(String((route.params as { name?: string }).name ?? ""));
  const fresh = $derived(name === "new");
  const found = $derived(isSet ? session.setup?.sets.find((one) => one.name === name) : session.type(name));
  let draft = $state.raw<Definition>({ name: "", fields: [] });
  let base = $state("");
  let impact = $state.raw<Impact | null>(null);
  let error = $state<unknown>(null);
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
    impact = null;
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
  $effect(() => {
    const body = sent() as { name: string };
    if (!dirty || !mayChange || !body.name) return;
    const pending = setTimeout(async () => {
      try {
        impact = await sure(api.POST(isSet ? "/api/field-sets/check" : "/api/types/check", { body }));
        error = null;
      } catch (caught) {
        impact = null;
        error = caught;
      }
    }, 300);
    return () => clearTimeout(pending);
  });

  $effect(() =>
    blockNavigation({
      beforeUnload: () => !dirty || !mayChange,
      onNavigate: () => !dirty || !mayChange || busy || confirm(t("types.leave")),
    }),
  );

  async function put(): Promise<void> {
    busy = true;
    error = null;
    try {
      const body = sent() as { name: string };
      const made = await sure(api.PUT(isSet ? "/api/field-sets" : "/api/types", { body }));
      session.setup = await sure(api.GET("/api/setup"));
      toasts.say(t("types.done", { label: made.label, version: made.version }));
      await queries.invalidateQueries();
      if (fresh) await navigate(`/set-up/${isSet ? "field-sets" : "types"}/${made.name}` as "/");
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  async function remove(): Promise<void> {
    if (!confirm(t("types.sureDelete", { label: draft.label ?? name }))) return;
    busy = true;
    error = null;
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
      error = caught;
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
      error = null;
    } catch (caught) {
      error = caught;
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

  const whole = $derived([
    ...draft.fields,
    ...(session.setup?.sets ?? [])
      .filter((one) => draft.sets?.includes(one.name))
      .flatMap((one) => one.fields as Draft[]),
  ]);
  const roles = [
    { role: "internal", kinds: ["line"] },
    { role: "pinned", kinds: ["boolean"] },
    { role: "dated", kinds: ["date", "instant"] },
    { role: "search_title", kinds: ["line"] },
    { role: "meta_description", kinds: ["text", "line"] },
    { role: "search_picture", kinds: ["reference"] },
  ] as const;
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
      <Button look="main" disabled={busy || !dirty || impact?.refused || !draft.name} onclick={put}
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
        <fieldset disabled={!mayChange} class="flex flex-col gap-5">
          <div class="grid gap-3 sm:grid-cols-2">
            <label class="flex flex-col gap-1"
              >{t("types.label")}<Input
                value={draft.label ?? ""}
                oninput={(event) => set({ label: event.currentTarget.value })}
              /></label
            >
            <label class="flex flex-col gap-1"
              >{t("types.name")}<Input
                class="font-mono"
                value={draft.name}
                disabled={!fresh}
                onchange={(event) => set({ name: event.currentTarget.value })}
              /></label
            >
            <label class="flex flex-col gap-1 sm:col-span-2"
              >{t("types.help")}<Input
                value={draft.help ?? ""}
                oninput={(event) => set({ help: event.currentTarget.value })}
              /></label
            >
          </div>
          {#if !isSet}
            <div class="flex flex-wrap gap-x-5 gap-y-2">
              {#each ["single", "section", "site", "common", "menu", "read_only", "retired"] as const as flag (flag)}
                <label class="flex items-center gap-2"
                  ><Checkbox
                    checked={draft[flag] ?? false}
                    onchange={(event) => set({ [flag]: event.currentTarget.checked })}
                  />{t(`types.flag_${flag}`)}</label
                >
              {/each}
              {#each ["translated", "public"] as const as flag (flag)}
                <label class="flex items-center gap-2"
                  ><Checkbox
                    checked={draft[flag] !== false}
                    onchange={(event) => set({ [flag]: event.currentTarget.checked })}
                  />{t(`types.flag_${flag}`)}</label
                >
              {/each}
              <label class="flex items-center gap-2"
                >{t("types.workflow")}
                <Select
                  class="w-auto"
                  value={draft.workflow ?? "standard"}
                  onchange={(event) => set({ workflow: event.currentTarget.value })}
                >
                  {#each session.setup?.workflows ?? [] as one (one.name)}<option value={one.name}
                      >{one.label}</option
                    >{/each}
                </Select></label
              >
              <label class="flex items-center gap-2"
                >{t("types.layout")}
                <Select
                  class="w-auto"
                  value={draft.layout ?? ""}
                  onchange={(event) => set({ layout: event.currentTarget.value })}
                >
                  <option value="">{t("fields.noChoice")}</option>
                  {#each (session.setup?.types ?? []).filter((one) => one.single && one.name !== draft.name) as one (one.name)}<option
                      value={one.name}>{one.label}</option
                    >{/each}
                </Select></label
              >
            </div>
          {/if}
          <section aria-labelledby="its-fields">
            <h2 id="its-fields" class="pb-2 text-lg font-semibold">{t("types.fields")}</h2>
            <FieldsEditor fields={draft.fields} around={whole} onChange={(fields) => set({ fields })} />
          </section>
          {#if !isSet && (session.setup?.sets.length ?? 0) > 0}
            <fieldset class="flex flex-wrap gap-x-5 gap-y-2">
              <legend class="pb-1 font-semibold">{t("setUp.sets")}</legend>
              {#each session.setup?.sets ?? [] as one (one.name)}
                <label class="flex items-center gap-2"
                  ><Checkbox
                    checked={draft.sets?.includes(one.name) ?? false}
                    onchange={(event) =>
                      set({
                        sets: event.currentTarget.checked
                          ? [...(draft.sets ?? []), one.name]
                          : (draft.sets ?? []).filter((other) => other !== one.name),
                      })}
                  />{one.label}</label
                >
              {/each}
            </fieldset>
            <div class="grid gap-3 sm:grid-cols-3">
              {#each roles as one (one.role)}
                <label class="flex flex-col gap-1 text-sm"
                  >{t(`types.role_${one.role}`)}
                  <Select
                    value={draft[one.role] ?? ""}
                    onchange={(event) => set({ [one.role]: event.currentTarget.value })}
                  >
                    <option value="">{t("fields.noChoice")}</option>
                    {#each whole.filter( (field) => (one.kinds as readonly string[]).includes(field.kind) ) as field (field.name)}<option
                        value={field.name}>{field.label ?? field.name}</option
                      >{/each}
                  </Select></label
                >
              {/each}
            </div>
          {/if}
        </fieldset>
      {/if}
    </form>
    <aside class="sheet h-fit p-4 lg:sticky lg:top-4" aria-labelledby="would">
      <h2 id="would" class="pb-2 text-lg font-semibold">{t("types.would")}</h2>
      {#if error}<Trouble {error} />
      {:else if !dirty}<p class="text-moss">{t("types.nothingYet")}</p>
      {:else if !impact}<p class="text-moss" role="status">{t("app.loading")}</p>
      {:else}
        <p class="pb-2 text-sm text-moss" role="status">{t("types.looked", { count: impact.entries })}</p>
        <ul class="flex flex-col gap-3">
          {#each impact.effects as effect, n (n)}
            <li class="border-s-2 ps-3 {effect.refuses ? 'border-berry' : 'border-line'}">
              {#if isSet}<span class="text-sm text-moss">{effect.type}: </span>{/if}{effect.what}
              {#if effect.entries}<span class="block text-sm text-moss"
                  >{t("types.entries", { count: effect.entries })}:
                  {#each effect.examples as one, m (one.id)}{m ? ", " : ""}<a
                      href="/entries/{one.id}/{session.setup?.locales[0]?.tag}">{one.title}</a
                    >{/each}{effect.entries > effect.examples.length ? " …" : ""}</span
                >{/if}
              {#if effect.refuses}<span class="block text-sm font-semibold text-berry"
                  >{t("types.refuses")}</span
                >{/if}
            </li>
          {:else}
            <li class="text-moss">{t("types.harmless")}</li>
          {/each}
        </ul>
      {/if}
    </aside>
  </div>
{/if}
