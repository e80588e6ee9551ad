<script lang="ts">
  import type { Snippet } from "svelte";
  import type { Entry, FieldSpec } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { copied, type Block } from "./blocks";
  import { opening } from "./blocks";
  import Button from "../../../ui/Button.svelte";
  import Disclosure from "../../../ui/Disclosure.svelte";

  interface Props {
    spec: FieldSpec;
    entry: Entry;
    value: unknown;
    readonly: boolean;
    onType: (value: unknown) => void;
    children: Snippet;
  }
  let { spec, entry, value, readonly, onType, children }: Props = $props();
  const layout = $derived(entry.layout);
  const theirs = $derived(layout?.values[spec.name]);
  const own = $derived(Array.isArray(value) ? value.length > 0 : !!value);

  function replace(): void {
    if (Array.isArray(theirs) && theirs.length) onType((theirs as Block[]).map(copied));
    else if (typeof theirs === "string") onType(theirs);
    else
      onType(spec.kind === "rich" ? "<p></p>" : [{ id: "own-1", kind: spec.blocks?.[0]?.name, fields: {} }]);
  }

  function words(some: unknown): string[] {
    if (typeof some === "string") return [opening({ id: "", fields: { text: some } })];
    if (!Array.isArray(some)) return [];
    return (some as Block[]).map((block) => {
      const label = spec.blocks?.find((one) => one.name === block.kind)?.label ?? block.kind;
      const said = opening(block);
      return said ? `${label}: ${said}` : `${label}`;
    });
  }
</script>

{#if !layout}
  {@render children()}
{:else if !own}
  <div class="sheet flex flex-col gap-2 border-s-4 border-s-slate px-3 py-2">
    <p>
      {t("region.follows")} <a href="/entries/{layout.id}/{entry.locale}">{layout.title}</a>
    </p>
    <ul class="list-disc ps-5 text-sm text-moss" lang={entry.locale} dir="auto">
      {#each words(theirs) as line, n (n)}<li>{line}</li>{:else}<li>{t("region.nothing")}</li>{/each}
    </ul>
    {#if !readonly}<Button class="self-start" onclick={replace}>{t("region.replace")}</Button>{/if}
  </div>
{:else}
  <div class="flex flex-col gap-2">
    <div class="flex flex-wrap items-center gap-3 rounded bg-wash px-3 py-1.5">
      <span>{t("region.own")}</span>
      {#if !readonly}<Button class="ms-auto" onclick={() => onType(null)}>{t("region.back")}</Button>{/if}
    </div>
    <Disclosure title={t("region.difference")} class="text-sm">
      <div class="grid gap-3 pt-1 sm:grid-cols-2">
        <div>
          <p class="font-semibold">{layout.title}</p>
          <ul class="list-disc ps-5">
            {#each words(theirs).filter((line) => !words(value).includes(line)) as line, n (n)}<li
                class="gone"
              >
                {line}
              </li>{:else}<li class="text-moss">{t("region.same")}</li>{/each}
          </ul>
        </div>
        <div>
          <p class="font-semibold">{t("region.here")}</p>
          <ul class="list-disc ps-5">
            {#each words(value).filter((line) => !words(theirs).includes(line)) as line, n (n)}<li
                class="new"
              >
                {line}
              </li>{:else}<li class="text-moss">{t("region.same")}</li>{/each}
          </ul>
        </div>
      </div>
    </Disclosure>
    {@render children()}
  </div>
{/if}
