<script lang="ts">
  import Canonical from "../delivery/Canonical.svelte";
  import WordsConflict from "./WordsConflict.svelte";
  import type { Conflict } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { plain } from "./plain";
  import type { Decisions } from "../../lib/state/editor.svelte";
  import Button from "../../ui/Button.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import Radio from "../../ui/Radio.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";

  interface Props {
    conflicts: Conflict[];
    names: (uuid: string) => string;
    busy: boolean;
    /** What the side called ours is: what was typed, or a strand, beside the draft or beside what is out. */
    side?: "typed" | "strand" | "out";
    onSettle: (decisions: Decisions) => void;
  }
  let { conflicts, names, busy, side: what = "typed", onSettle }: Props = $props();
  type Take = "ours" | "theirs" | "both" | "own";
  let takes = $state<Record<string, Take>>({});
  let owns = $state<Record<string, string>>({});
  const all = $derived(conflicts.every((conflict) => takes[conflict.place]));
  let heading: HTMLElement;
  $effect(() => heading?.focus());

  function shown(value: unknown): string {
    if (value === null || value === undefined || value === "") return t("conflict.empty");
    if (Array.isArray(value)) return value.map(shown).join(", ");
    if (typeof value === "object") {
      const block = value as { kind?: string; fields?: Record<string, unknown>; blocks?: unknown[] };
      if (!block.fields) return JSON.stringify(value);
      return [block.kind, ...Object.values(block.fields).map(shown), ...(block.blocks ?? []).map(shown)].join(
        " · ",
      );
    }
    const text = String(value);
    return text.startsWith("<") ? plain(text).trim() : names(text);
  }

  function compose(conflict: Conflict, text: string | null): void {
    if (text === null) return;
    const tag = /^<(\w+)>/.exec(String(conflict.theirs ?? conflict.ours ?? ""))?.[1];
    // A paragraph keeps the tags around it; a list item's are those of its whole list.
    const around = String(conflict.theirs).match(
      /^((?:<(?:ul|ol|blockquote|li|p|h2|h3|h4)>)+)[\s\S]*?((?:<\/\w+>)+)$/,
    );
    // And a row keeps its table.
    const whole = tag === "table" ? `<table><tr>${text}</tr></table>` : null;
    owns = { ...owns, [conflict.place]: whole ?? (tag && around ? around[1] + text + around[2] : text) };
    takes = { ...takes, [conflict.place]: "own" };
  }

  function settle(): void {
    onSettle(
      Object.fromEntries(
        conflicts.map((c) => {
          const take = takes[c.place]!;
          return [c.place, take === "own" ? { take, value: owns[c.place] } : { take }];
        }),
      ),
    );
  }

  function who(side: "ours" | "theirs"): string {
    if (what === "out") return t(side === "ours" ? "conflict.strand" : "conflict.out");
    if (what === "strand") return t(side === "ours" ? "conflict.strand" : "conflict.draft");
    return t(side === "ours" ? "conflict.yours" : "conflict.theirs");
  }

  const texts = new Set(["rich", "text", "line"]);
</script>

<section class="sheet border-s-4 border-s-berry p-4" aria-labelledby="conflict-title">
  <h2
    id="conflict-title"
    tabindex="-1"
    bind:this={heading}
    class="text-lg font-semibold text-berry outline-none"
  >
    {t({ typed: "conflict.title", strand: "conflict.strandTitle", out: "conflict.outTitle" }[what])}
  </h2>
  <p class="pb-3 text-moss">{t("conflict.intro")}</p>
  {#each conflicts as conflict (conflict.place)}
    <fieldset class="border-t py-3">
      <legend class="font-semibold">{conflict.label}</legend>
      {#if conflict.why !== "both changed it"}<p class="pb-1 text-sm text-moss">
          {t(`conflict.why_${conflict.why.replaceAll(" ", "_")}`)}
        </p>{/if}
      {#if conflict.pieces?.some((piece) => piece.contested)}
        <div class="sheet mb-3 p-3 {takes[conflict.place] === 'own' ? 'border-hedge' : ''}">
          <p class="pb-1 text-sm font-semibold text-moss">{t("conflict.word")}</p>
          <WordsConflict
            pieces={conflict.pieces}
            lang={conflict.locale}
            onCompose={(text) => compose(conflict, text)}
          />
        </div>
      {/if}
      <div class="grid gap-3 md:grid-cols-2">
        {#each ["ours", "theirs"] as const as side (side)}
          <Radio
            class={[
              "sheet flex cursor-pointer items-start gap-3 p-3",
              takes[conflict.place] === side && "border-hedge",
            ]}
            name={conflict.place}
            value={side}
            bind:group={takes[conflict.place]}
          >
            <span class="min-w-0">
              <span class="block text-sm font-semibold text-moss">{who(side)}</span>
              {#if conflict.kind === "rich" && conflict[side]}
                <span class="prose-text block" lang={conflict.locale}
                  ><Canonical html={String(conflict[side])} /></span
                >
              {:else}
                <span class="font-serif" lang={conflict.locale}>{shown(conflict[side])}</span>
              {/if}
            </span>
          </Radio>
        {/each}
      </div>
      {#if conflict.kind === "rich" || conflict.kind === "text"}
        <Radio class="pt-2" name={conflict.place} bind:group={takes[conflict.place]} value="both"
          >{t("conflict.both")}</Radio
        >
      {/if}
      {#if texts.has(conflict.kind)}
        <Disclosure title={t("conflict.own")} class="pt-2">
          <Textarea
            class="mt-1 font-serif"
            rows={3}
            lang={conflict.locale}
            aria-label={t("conflict.own")}
            value={owns[conflict.place] ?? String(conflict.theirs ?? "")}
            oninput={(event) => {
              owns = { ...owns, [conflict.place]: event.currentTarget.value };
              takes = { ...takes, [conflict.place]: "own" };
            }}
          />
        </Disclosure>
      {/if}
    </fieldset>
  {/each}
  <Button look="main" class="mt-2" disabled={!all || busy} onclick={settle}>{t("conflict.settle")}</Button>
</section>
