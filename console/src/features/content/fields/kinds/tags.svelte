<script lang="ts">
  import { api, sure } from "../../../../lib/api";
  import { t } from "../../../../lib/i18n";
  import type { FieldProps } from "../props";
  import Button from "../../../../ui/Button.svelte";
  import Input from "../../../../ui/Input.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  let { spec, value, readonly, onType, id }: FieldProps = $props();
  const tags = $derived((value as string[] | undefined) ?? []);
  let text = $state("");
  let known = $state<{ tag: string; entries: number }[]>([]);
  let pending: ReturnType<typeof setTimeout>;

  function add(word = text): void {
    const tidy = word.trim().replace(/\s+/g, " ");
    if (tidy && !tags.includes(tidy)) onType([...tags, tidy]);
    text = "";
    known = [];
  }

  function look(): void {
    clearTimeout(pending);
    const start = text.trim();
    pending = setTimeout(async () => {
      if (!start) return void (known = []);
      const answer = await sure(api.GET("/api/tags", { params: { query: { start, limit: 8 } } })).catch(
        () => null,
      );
      known = (answer?.items ?? []).filter((one) => !tags.includes(one.tag));
    }, 150);
  }

  function onKey(event: KeyboardEvent): void {
    if (event.key === "Enter" || event.key === ",") {
      event.preventDefault();
      add();
    } else if (event.key === "Backspace" && !text && tags.length) onType(tags.slice(0, -1));
  }
</script>

<div class="flex flex-wrap items-center gap-2">
  {#each tags as tag (tag)}
    <span class="flex items-center gap-1 rounded bg-wash ps-2"
      >{tag}
      {#if !readonly}<Button
          icon={CloseOutline}
          look="quiet"
          class="py-1"
          label={t("fields.remove", { what: tag })}
          onclick={() => onType(tags.filter((one) => one !== tag))}
        />{/if}</span
    >
  {/each}
  {#if !readonly}
    <Input
      {id}
      class="max-w-56!"
      list="{id}-known"
      bind:value={text}
      oninput={look}
      onkeydown={onKey}
      onblur={() => add()}
      placeholder={t("fields.tagHint")}
      aria-labelledby="{id}-label"
      autocomplete="off"
    />
    <datalist id="{id}-known">
      {#each known as one (one.tag)}<option value={one.tag}
          >{t("fields.tagUses", { count: one.entries })}</option
        >{/each}
    </datalist>
  {:else if !tags.length}<span class="text-moss">{spec.label}: {t("fields.none")}</span>{/if}
</div>
