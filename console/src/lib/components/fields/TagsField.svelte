<script lang="ts">
  import { t } from "../../i18n";
  import type { FieldProps } from "./props";

  let { spec, value, readonly, onType, id }: FieldProps = $props();
  const tags = $derived((value as string[] | undefined) ?? []);
  let text = $state("");

  function add(): void {
    const word = text.trim().replace(/\s+/g, " ");
    if (word && !tags.includes(word)) onType([...tags, word]);
    text = "";
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
      {#if !readonly}<button
          type="button"
          class="px-2 py-1"
          aria-label={t("fields.remove", { what: tag })}
          onclick={() => onType(tags.filter((one) => one !== tag))}>×</button
        >{/if}</span
    >
  {/each}
  {#if !readonly}
    <input
      {id}
      class="field max-w-56"
      bind:value={text}
      onkeydown={onKey}
      onblur={add}
      placeholder={t("fields.tagHint")}
      aria-labelledby="{id}-label"
    />
  {:else if !tags.length}<span class="text-moss">{spec.label}: {t("fields.none")}</span>{/if}
</div>
