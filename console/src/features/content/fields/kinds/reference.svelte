<script lang="ts">
  import { api, once, sure, type Named } from "../../../../lib/api";
  import { t } from "../../../../lib/i18n";
  import { toasts } from "../../../../lib/state/toasts.svelte";
  import { session } from "../../../../lib/state/session.svelte";
  import PictureUpload from "../PictureUpload.svelte";
  import type { FieldProps } from "../props";
  import Button from "../../../../ui/Button.svelte";
  import Input from "../../../../ui/Input.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  let { spec, entry, value, readonly, onType, id }: FieldProps = $props();
  const ids = $derived((spec.many ? (value as string[] | undefined) : value ? [value as string] : []) ?? []);
  const takesPictures = $derived(spec.types.includes("picture"));
  let known = $state<Record<string, Named>>({});
  let text = $state("");
  let found = $state<Named[] | null>(null);
  let pending: ReturnType<typeof setTimeout>;
  const names = $derived<Record<string, Named>>({ ...entry.references, ...known });
  const makes = $derived(
    spec.types
      .map((name) => session.type(name))
      .find((type) => type && !type.fields.some((f) => f.kind === "file")),
  );

  const title = (one: string): string => names[one]?.title ?? one;

  function look(): void {
    clearTimeout(pending);
    const wanted = text.trim();
    pending = setTimeout(async () => {
      const answers = await Promise.all(
        (spec.types.length ? spec.types : [""]).map((type) =>
          sure(api.GET("/api/entries", { params: { query: { type, words: wanted, limit: 8 } } })),
        ),
      ).catch(() => []);
      found = answers
        .flatMap((answer) => answer.items)
        .filter((line) => line.id !== entry.id && !ids.includes(line.id))
        .map((line) => ({ id: line.id, type: line.type, title: line.title, file: "" }));
    }, 150);
  }

  async function choose(one: Named): Promise<void> {
    known = { ...known, [one.id]: one };
    onType(spec.many ? [...ids, one.id] : one.id);
    text = "";
    found = null;
    if (takesPictures && !one.file) {
      const whole = await sure(api.GET("/api/entries/{id}", { params: { path: { id: one.id } } }));
      const file = whole.fields.file as { sha256: string } | undefined;
      if (file) known = { ...known, [one.id]: { ...one, file: file.sha256 } };
    }
  }

  async function make(): Promise<void> {
    if (!makes) return;
    try {
      const made = await sure(
        api.POST("/api/entries", {
          params: { header: once() },
          body: {
            type: makes.name,
            locale: entry.source_locale,
            fields: { [makes.title]: text.trim() },
            note: "",
          },
        }),
      );
      await choose({ id: made.id, type: made.type, title: made.title, file: "" });
    } catch (error) {
      toasts.wrong(error);
    }
  }

  function remove(one: string): void {
    onType(spec.many ? ids.filter((other) => other !== one) : null);
  }
</script>

{#snippet row(one: string)}
  {#if names[one]?.file}
    <img src="/api/files/{names[one].file}" alt="" class="h-14 w-20 rounded object-cover" />
  {/if}
  <a href="/entries/{one}/{entry.locale}">{title(one)}</a>
  {#if !readonly}
    <Button
      class="ms-auto"
      icon={CloseOutline}
      label={t("fields.remove", { what: title(one) })}
      onclick={() => remove(one)}
    />
  {/if}
{/snippet}

{#snippet list()}
  <ul class="flex flex-col gap-2">
    {#each ids as one (one)}<li class="sheet flex items-center gap-3 px-3 py-2">{@render row(one)}</li>{/each}
  </ul>
{/snippet}

{#if ids.length > 1 && !readonly}
  <!-- What carries them about is large, and wanted only where there is an order. -->
  {#await import("../OrderedReferences.svelte")}{@render list()}{:then part}
    <part.default {ids} {title} {row} onOrder={onType} />
  {:catch}{@render list()}{/await}
{:else if ids.length}{@render list()}{/if}
{#if !readonly && (spec.many || !ids.length)}
  <div class="flex flex-wrap items-start gap-2">
    <div class="relative min-w-56 flex-1">
      <Input
        {id}
        bind:value={text}
        oninput={look}
        onfocus={look}
        onblur={() => setTimeout(() => (found = null), 180)}
        placeholder={t("fields.search")}
        aria-labelledby="{id}-label"
        autocomplete="off"
      />
      {#if found}
        <ul class="sheet absolute z-30 mt-1 w-full shadow-lg">
          {#each found as one (one.id)}
            <li>
              <Button
                look="row"
                class="focus:bg-wash"
                onmousedown={(event) => event.preventDefault()}
                onclick={() => choose(one)}>{one.title || t("list.untitled")}</Button
              >
            </li>
          {/each}
          {#if text.trim() && makes}
            <li>
              <Button
                look="row"
                class="text-hedge"
                onmousedown={(event) => event.preventDefault()}
                onclick={make}>{t("fields.makeNew", { title: text.trim() })}</Button
              >
            </li>
          {:else if !found.length}
            <li class="px-3 py-2 text-moss">{t("find.none")}</li>
          {/if}
        </ul>
      {/if}
    </div>
    {#if takesPictures}<PictureUpload locale={entry.source_locale} onMade={choose} />{/if}
  </div>
{:else if readonly && !ids.length}
  <p class="text-moss" {id}>{t("fields.none")}</p>
{/if}
