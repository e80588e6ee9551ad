<script lang="ts">
  import { t } from "../../../../lib/i18n";
  import EntryPicker from "../EntryPicker.svelte";
  import type { FieldProps } from "../props";
  import Button from "../../../../ui/Button.svelte";
  import Input from "../../../../ui/Input.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  interface Link {
    href: string;
    text?: string;
  }
  let { entry, value, readonly, onType, id }: FieldProps = $props();
  const now = $derived((value as Link | null | undefined) ?? { href: "", text: "" });
  const inside = $derived(now.href.startsWith("urn:uuid:"));
  let known = $state<Record<string, string>>({});

  function type(href: string, text: string | undefined): void {
    onType(href.trim() ? { href: href.trim(), ...(text ? { text } : {}) } : null);
  }
</script>

<div class="grid gap-2 sm:grid-cols-2">
  {#if inside}
    <p class="sheet flex items-center gap-2 px-3 py-1.5" {id}>
      <span class="min-w-0 truncate"
        >{known[now.href] ?? entry.references[now.href.slice(9)]?.title ?? now.href}</span
      >
      {#if !readonly}<Button
          icon={CloseOutline}
          look="quiet"
          class="ms-auto"
          label={t("fields.remove", { what: t("fields.linkTo") })}
          onclick={() => onType(null)}
        />{/if}
    </p>
  {:else}
    <Input
      {id}
      type="url"
      value={now.href}
      {readonly}
      placeholder={t("fields.linkHint")}
      aria-labelledby="{id}-label"
      onchange={(event) => type(event.currentTarget.value, now.text)}
    />
  {/if}
  <Input
    value={now.text ?? ""}
    {readonly}
    placeholder={t("fields.linkWords")}
    aria-label={t("fields.linkWords")}
    oninput={(event) => type(now.href, event.currentTarget.value)}
  />
</div>
{#if !readonly && !inside}
  <div class="pt-1">
    <EntryPicker
      label={t("fields.linkTo")}
      onChoose={(one) => {
        known = { ...known, [`urn:uuid:${one.id}`]: one.title };
        type(`urn:uuid:${one.id}`, now.text);
      }}
    />
  </div>
{/if}
