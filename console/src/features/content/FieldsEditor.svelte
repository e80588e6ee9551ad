<script lang="ts">
  import "../../messages/setup";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { named, type Draft } from "../../lib/types";
  import FieldForm from "./FieldForm.svelte";
  import { moved } from "./fields/blocks";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
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
    (session.setup?.kinds ?? []).filter((one) => !inner || !["slug", "parent", "planned"].includes(one.name)),
  );

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
    if (kind === "planned") made.move = "withdraw";
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
        <FieldForm {field} around={around ?? fields} {kinds} {inner} change={(part) => change(n, part)} />
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
