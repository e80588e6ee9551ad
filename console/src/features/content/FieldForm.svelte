<script lang="ts">
  import "../../messages/setup";
  import BlockKinds from "./BlockKinds.svelte";
  import FieldsEditor from "./FieldsEditor.svelte";
  import PlannedMove from "./PlannedMove.svelte";
  import { t } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import { session } from "../../lib/state/session.svelte";
  import type { Draft } from "../../lib/types";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Textarea from "../../ui/Textarea.svelte";

  /** All that can be said of one field. */
  interface Props {
    field: Draft;
    /** Fields that a slug may follow or an opening be taken from. */
    around: Draft[];
    kinds: { name: string; label: string; filters: string[]; described: boolean }[];
    inner: boolean;
    change: (part: Partial<Draft>) => void;
  }
  let { field, around, kinds, inner, change }: Props = $props();
  type Flag = "required" | "shared" | "many" | "option" | "region" | "counts_as_alt" | "read_only";

  /** What may be said of a field: inside a block how it looks, at the top what follows the layout. */
  function flags(field: Draft): Flag[] {
    if (inner) return ["required", "many", "option"];
    if (field.kind === "planned") return ["required", "shared"];
    const more: Flag[] = ["blocks", "rich"].includes(field.kind) ? ["region"] : [];
    return [
      "required",
      "shared",
      "many",
      "read_only",
      ...more,
      ...(field.kind === "line" ? ["counts_as_alt" as const] : []),
    ];
  }
  const texts = $derived(around.filter((one) => ["line", "text", "rich"].includes(one.kind)));

  function lines(text: string): string[] {
    return text
      .split("\n")
      .map((line) => line.trim())
      .filter(Boolean);
  }

  function number(event: Event & { currentTarget: HTMLInputElement }): number | null {
    return event.currentTarget.value === "" ? null : event.currentTarget.valueAsNumber;
  }

  function json(text: string): unknown {
    try {
      return text.trim() ? JSON.parse(text) : null;
    } catch {
      return text;
    }
  }
</script>

<div class="grid gap-3 border-t p-3 sm:grid-cols-2">
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.label")}<Input
      value={field.label ?? ""}
      oninput={(event) => change({ label: event.currentTarget.value })}
    /></label
  >
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.name")}<Input
      class="font-mono"
      value={field.name}
      onchange={(event) => change({ name: event.currentTarget.value.trim() })}
    /></label
  >
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.kind")}
    <Select
      value={field.kind}
      onchange={(event) => change({ kind: event.currentTarget.value as Draft["kind"] })}
    >
      {#each kinds as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
    </Select></label
  >
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.help")}<Input
      value={field.help ?? ""}
      oninput={(event) => change({ help: event.currentTarget.value })}
    /></label
  >
  <div class="flex flex-wrap gap-4 sm:col-span-2">
    {#each flags(field) as flag (flag)}
      <label class="flex items-center gap-2"
        ><Checkbox
          checked={field[flag] ?? false}
          onchange={(event) => change({ [flag]: event.currentTarget.checked })}
        />{t(`types.flag_${flag}`)}</label
      >
    {/each}
    {#if ["line", "text", "rich"].includes(field.kind) && !field.shared}
      <label class="flex items-center gap-2"
        ><Checkbox
          checked={field.translate !== false}
          onchange={(event) => change({ translate: event.currentTarget.checked })}
        />{t("types.flag_translate")}</label
      >
      <label class="flex items-center gap-2"
        ><Checkbox
          checked={field.confidential ?? false}
          onchange={(event) => change({ confidential: event.currentTarget.checked })}
        />{t("types.flag_confidential")}</label
      >
    {/if}
    {#if !inner && field.public !== false && kinds.find((one) => one.name === field.kind)?.filters.length}
      <label class="flex items-center gap-2"
        ><Checkbox
          checked={field.filter ?? false}
          onchange={(event) => change({ filter: event.currentTarget.checked })}
        />{t("types.flag_filter")}</label
      >
    {/if}
    {#if !inner && !["file", "slug", "parent"].includes(field.kind)}
      <label class="flex items-center gap-2"
        ><Checkbox
          checked={field.public !== false}
          onchange={(event) => change({ public: event.currentTarget.checked })}
        />{t("types.flag_shown")}</label
      >
    {/if}
  </div>
  {#if !inner && field.public !== false && kinds.find((one) => one.name === field.kind)?.described}
    <label class="flex flex-col gap-1 text-sm"
      >{t("types.schemaProperty")}<Input
        class="font-mono"
        value={field.schema_property ?? ""}
        onchange={(event) => change({ schema_property: event.currentTarget.value.trim() })}
      /></label
    >
  {/if}
  {#if field.kind === "planned"}<PlannedMove {field} {around} {change} />{/if}
  {#if field.kind === "choice"}
    <label class="flex flex-col gap-1 text-sm sm:col-span-2"
      >{t("types.choices")}<Textarea
        rows={3}
        value={(field.choices ?? []).join("\n")}
        onchange={(event) => change({ choices: lines(event.currentTarget.value) })}
      /></label
    >
  {/if}
  {#if field.kind === "reference" || field.kind === "parent"}
    <fieldset class="flex flex-wrap gap-x-4 gap-y-1 text-sm">
      <legend class="pb-1">{t("types.types")}</legend>
      {#each session.setup?.types ?? [] as one (one.name)}
        <Checkbox
          checked={field.types?.includes(one.name)}
          onchange={() => change({ types: toggled(field.types, one.name) })}>{one.label}</Checkbox
        >
      {/each}
    </fieldset>
  {/if}
  {#if field.kind === "slug" || ((field.kind === "text" || field.kind === "line") && !inner)}
    <label class="flex flex-col gap-1 text-sm"
      >{t(field.kind === "slug" ? "types.follows" : "types.derives")}
      <Select
        value={(field.kind === "slug" ? field.follows : field.derives) ?? ""}
        onchange={(event) =>
          change(
            field.kind === "slug"
              ? { follows: event.currentTarget.value }
              : { derives: event.currentTarget.value },
          )}
      >
        <option value="">{t("fields.noChoice")}</option>
        {#each texts.filter((one) => one.name !== field.name) as one (one.name)}<option value={one.name}
            >{one.label ?? one.name}</option
          >{/each}
      </Select></label
    >
  {/if}
  {#if ["line", "text", "rich", "tags", "reference", "blocks", "group"].includes(field.kind)}
    <label class="flex flex-col gap-1 text-sm"
      >{t(field.many || ["tags", "blocks"].includes(field.kind) ? "types.most" : "types.limit")}<Input
        type="number"
        min="1"
        value={field.limit ?? ""}
        onchange={(event) => change({ limit: number(event) })}
      /></label
    >
  {/if}
  {#if field.many || ["tags", "blocks"].includes(field.kind)}
    <label class="flex flex-col gap-1 text-sm"
      >{t("types.least")}<Input
        type="number"
        min="1"
        value={field.least ?? ""}
        onchange={(event) => change({ least: number(event) })}
      /></label
    >
  {/if}
  {#if field.kind === "number"}
    {#each ["minimum", "maximum"] as const as bound (bound)}
      <label class="flex flex-col gap-1 text-sm"
        >{t(`types.${bound}`)}<Input
          type="number"
          step="any"
          value={field[bound] ?? ""}
          onchange={(event) => change({ [bound]: number(event) })}
        /></label
      >
    {/each}
  {/if}
  {#if !["slug", "parent", "file", "blocks", "group"].includes(field.kind)}
    <label class="flex flex-col gap-1 text-sm"
      >{t("types.default")}<Input
        value={field.default == null
          ? ""
          : typeof field.default === "string"
            ? field.default
            : JSON.stringify(field.default)}
        onchange={(event) => change({ default: json(event.currentTarget.value) })}
      /></label
    >
  {/if}
  {#if field.kind === "group"}
    <div class="sm:col-span-2">
      <p class="pb-1 text-sm font-semibold">{t("types.inside")}</p>
      <FieldsEditor inner fields={field.fields ?? []} onChange={(inside) => change({ fields: inside })} />
    </div>
  {/if}
  {#if field.kind === "blocks"}
    <BlockKinds blocks={field.blocks ?? []} onChange={(blocks) => change({ blocks })} />
  {/if}
</div>
