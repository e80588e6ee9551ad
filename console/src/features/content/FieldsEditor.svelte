<script lang="ts">
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { named, type Draft } from "../../lib/types";
  import { moved } from "./fields/blocks";
  import Self from "./FieldsEditor.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Textarea from "../../ui/Textarea.svelte";
  import { toggled } from "../../lib/lists";
  import ArrowDownOutline from "flowbite-svelte-icons/ArrowDownOutline.svelte";
  import ArrowUpOutline from "flowbite-svelte-icons/ArrowUpOutline.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  interface Props {
    fields: Draft[];
    /** Fields that a slug may follow or an opening be taken from. */
    around?: Draft[];
    inner?: boolean;
    onChange: (fields: Draft[]) => void;
  }
  let { fields, around, inner = false, onChange }: Props = $props();
  let opened = $state<number | null>(null);
  let label = $state("");
  let kind = $state<Draft["kind"]>("line");
  const kinds = $derived(
    (session.setup?.kinds ?? []).filter((one) => !inner || (one.name !== "slug" && one.name !== "parent")),
  );
  type Flag = "required" | "shared" | "many" | "option" | "region" | "counts_as_alt" | "read_only";
  /** What may be said of a field: inside a block how it looks, at the top what follows the layout. */
  function flags(field: Draft): Flag[] {
    if (inner) return ["required", "many", "option"];
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
  const texts = $derived((around ?? fields).filter((one) => ["line", "text", "rich"].includes(one.kind)));

  function change(at: number, part: Partial<Draft>): void {
    onChange(fields.map((one, n) => (n === at ? { ...one, ...part } : one)));
  }

  function add(): void {
    const made: Draft = {
      name: named(
        label,
        fields.map((one) => one.name),
      ),
      kind,
      label: label.trim(),
    };
    if (kind === "choice") made.choices = [];
    if (kind === "group") made.fields = [{ name: "text", kind: "line", label: t("types.firstField") }];
    if (kind === "blocks") {
      made.blocks = [
        {
          name: "words",
          label: t("types.firstBlock"),
          fields: [{ name: "text", kind: "rich", label: t("types.firstField") }],
        },
      ];
    }
    opened = fields.length;
    onChange([...fields, made]);
    label = "";
  }

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

<ol class="flex flex-col gap-2">
  {#each fields as field, n (n)}
    <li class="sheet">
      <div class="flex flex-wrap items-center gap-1 px-2 py-1">
        <Button
          look="row"
          class="flex min-w-0 flex-1 flex-wrap items-baseline gap-2 py-1"
          aria-expanded={opened === n}
          onclick={() => (opened = opened === n ? null : n)}
        >
          <span class="font-semibold">{field.label || field.name}</span>
          <span class="text-sm text-moss"
            >{kinds.find((one) => one.name === field.kind)?.label ?? field.kind}{field.many
              ? `, ${t("types.many")}`
              : ""}{field.required ? `, ${t("entry.required")}` : ""}{field.shared
              ? `, ${t("entry.sharedMark")}`
              : ""}</span
          >
        </Button>
        <Button
          icon={ArrowUpOutline}
          look="quiet"
          class="disabled:opacity-30"
          disabled={n === 0}
          label={t("types.up", { what: field.label ?? field.name })}
          onclick={() => onChange(moved(fields, n, n - 1))}
        />
        <Button
          icon={ArrowDownOutline}
          look="quiet"
          class="disabled:opacity-30"
          disabled={n === fields.length - 1}
          label={t("types.down", { what: field.label ?? field.name })}
          onclick={() => onChange(moved(fields, n, n + 1))}
        />
        <Button
          icon={CloseOutline}
          look="quiet"
          label={t("fields.remove", { what: field.label ?? field.name })}
          onclick={() => onChange(fields.filter((_, at) => at !== n))}
        />
      </div>
      {#if opened === n}
        <div class="grid gap-3 border-t p-3 sm:grid-cols-2">
          <label class="flex flex-col gap-1 text-sm"
            >{t("types.label")}<Input
              value={field.label ?? ""}
              oninput={(event) => change(n, { label: event.currentTarget.value })}
            /></label
          >
          <label class="flex flex-col gap-1 text-sm"
            >{t("types.name")}<Input
              class="font-mono"
              value={field.name}
              onchange={(event) => change(n, { name: event.currentTarget.value.trim() })}
            /></label
          >
          <label class="flex flex-col gap-1 text-sm"
            >{t("types.kind")}
            <Select
              value={field.kind}
              onchange={(event) => change(n, { kind: event.currentTarget.value as Draft["kind"] })}
            >
              {#each kinds as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
            </Select></label
          >
          <label class="flex flex-col gap-1 text-sm"
            >{t("types.help")}<Input
              value={field.help ?? ""}
              oninput={(event) => change(n, { help: event.currentTarget.value })}
            /></label
          >
          <div class="flex flex-wrap gap-4 sm:col-span-2">
            {#each flags(field) as flag (flag)}
              <label class="flex items-center gap-2"
                ><Checkbox
                  checked={field[flag] ?? false}
                  onchange={(event) => change(n, { [flag]: event.currentTarget.checked })}
                />{t(`types.flag_${flag}`)}</label
              >
            {/each}
            {#if !inner && !["file", "slug", "parent"].includes(field.kind)}
              <label class="flex items-center gap-2"
                ><Checkbox
                  checked={field.public !== false}
                  onchange={(event) => change(n, { public: event.currentTarget.checked })}
                />{t("types.flag_shown")}</label
              >
            {/if}
          </div>
          {#if field.kind === "choice"}
            <label class="flex flex-col gap-1 text-sm sm:col-span-2"
              >{t("types.choices")}<Textarea
                rows={3}
                value={(field.choices ?? []).join("\n")}
                onchange={(event) => change(n, { choices: lines(event.currentTarget.value) })}
              /></label
            >
          {/if}
          {#if field.kind === "reference" || field.kind === "parent"}
            <fieldset class="flex flex-wrap gap-x-4 gap-y-1 text-sm">
              <legend class="pb-1">{t("types.types")}</legend>
              {#each session.setup?.types ?? [] as one (one.name)}
                <Checkbox
                  checked={field.types?.includes(one.name)}
                  onchange={() => change(n, { types: toggled(field.types, one.name) })}>{one.label}</Checkbox
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
                    n,
                    field.kind === "slug"
                      ? { follows: event.currentTarget.value }
                      : { derives: event.currentTarget.value },
                  )}
              >
                <option value="">{t("fields.noChoice")}</option>
                {#each texts.filter((one) => one.name !== field.name) as one (one.name)}<option
                    value={one.name}>{one.label ?? one.name}</option
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
                onchange={(event) => change(n, { limit: number(event) })}
              /></label
            >
          {/if}
          {#if field.many || ["tags", "blocks"].includes(field.kind)}
            <label class="flex flex-col gap-1 text-sm"
              >{t("types.least")}<Input
                type="number"
                min="1"
                value={field.least ?? ""}
                onchange={(event) => change(n, { least: number(event) })}
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
                  onchange={(event) => change(n, { [bound]: number(event) })}
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
                onchange={(event) => change(n, { default: json(event.currentTarget.value) })}
              /></label
            >
          {/if}
          {#if field.kind === "group"}
            <div class="sm:col-span-2">
              <p class="pb-1 text-sm font-semibold">{t("types.inside")}</p>
              <Self inner fields={field.fields ?? []} onChange={(inside) => change(n, { fields: inside })} />
            </div>
          {/if}
          {#if field.kind === "blocks"}
            <div class="flex flex-col gap-3 sm:col-span-2">
              {#each field.blocks ?? [] as block, m (m)}
                <fieldset class="border-s-2 ps-3">
                  <legend class="font-semibold">{block.label || block.name}</legend>
                  <div class="flex flex-wrap items-end gap-2 pb-2">
                    <label class="flex flex-col gap-1 text-sm"
                      >{t("types.label")}<Input
                        value={block.label ?? ""}
                        oninput={(event) =>
                          change(n, {
                            blocks: field.blocks!.map((one, at) =>
                              at === m ? { ...one, label: event.currentTarget.value } : one,
                            ),
                          })}
                      /></label
                    >
                    <label class="flex flex-col gap-1 text-sm"
                      >{t("types.arranges")}
                      <Select
                        value={block.arranges ?? ""}
                        onchange={(event) =>
                          change(n, {
                            blocks: field.blocks!.map((one, at) =>
                              at === m ? { ...one, arranges: event.currentTarget.value } : one,
                            ),
                          })}
                      >
                        {#each ["", "row", "column"] as one (one)}<option value={one}
                            >{t(`types.arranges_${one || "nothing"}`)}</option
                          >{/each}
                      </Select></label
                    >
                    <Button onclick={() => change(n, { blocks: field.blocks!.filter((_, at) => at !== m) })}
                      >{t("types.blockGone")}</Button
                    >
                  </div>
                  <Self
                    inner
                    fields={block.fields}
                    onChange={(inside) =>
                      change(n, {
                        blocks: field.blocks!.map((one, at) => (at === m ? { ...one, fields: inside } : one)),
                      })}
                  />
                </fieldset>
              {/each}
              <Button
                class="w-fit"
                onclick={() =>
                  change(n, {
                    blocks: [
                      ...(field.blocks ?? []),
                      {
                        name: named(
                          "block",
                          (field.blocks ?? []).map((one) => one.name),
                        ),
                        label: t("types.newBlock"),
                        fields: [{ name: "text", kind: "text", label: t("types.firstField") }],
                      },
                    ],
                  })}>{t("types.blockAdd")}</Button
              >
            </div>
          {/if}
        </div>
      {/if}
    </li>
  {/each}
</ol>
<div class="flex flex-wrap items-end gap-2 pt-2">
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.addLabel")}<Input
      class="w-48!"
      bind:value={label}
      onkeydown={(event) => {
        if (event.key === "Enter" && label.trim()) {
          event.preventDefault();
          add();
        }
      }}
    /></label
  >
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.kind")}
    <Select class="w-48" bind:value={kind}>
      {#each kinds as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
    </Select></label
  >
  <Button disabled={!label.trim()} onclick={add}>{t("types.add")}</Button>
</div>
