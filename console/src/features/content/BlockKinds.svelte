<script lang="ts">
  import "../../messages/setup";
  import FieldsEditor from "./FieldsEditor.svelte";
  import { t } from "../../lib/i18n";
  import { named, type Draft } from "../../lib/types";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";

  /** The kinds of blocks that a field can hold, each with its own fields. */
  type Block = NonNullable<Draft["blocks"]>[number];
  let { blocks, onChange }: { blocks: Block[]; onChange: (blocks: Block[]) => void } = $props();

  function put(at: number, part: Partial<Block>): void {
    onChange(blocks.map((one, n) => (n === at ? { ...one, ...part } : one)));
  }
</script>

<div class="flex flex-col gap-3 sm:col-span-2">
  {#each blocks as block, m (m)}
    <fieldset class="border-s-2 ps-3">
      <legend class="font-semibold">{block.label || block.name}</legend>
      <div class="flex flex-wrap items-end gap-2 pb-2">
        <label class="flex flex-col gap-1 text-sm"
          >{t("types.label")}<Input
            value={block.label ?? ""}
            oninput={(event) => put(m, { label: event.currentTarget.value })}
          /></label
        >
        <label class="flex flex-col gap-1 text-sm"
          >{t("types.arranges")}
          <Select
            value={block.arranges ?? ""}
            onchange={(event) => put(m, { arranges: event.currentTarget.value })}
          >
            {#each ["", "row", "column"] as one (one)}<option value={one}
                >{t(`types.arranges_${one || "nothing"}`)}</option
              >{/each}
          </Select></label
        >
        <Button onclick={() => onChange(blocks.filter((_, at) => at !== m))}>{t("types.blockGone")}</Button>
      </div>
      <FieldsEditor inner fields={block.fields} onChange={(inside) => put(m, { fields: inside })} />
    </fieldset>
  {/each}
  <Button
    class="w-fit"
    onclick={() =>
      onChange([
        ...blocks,
        {
          name: named(
            "block",
            blocks.map((one) => one.name),
          ),
          label: t("types.newBlock"),
          fields: [{ name: "text", kind: "text", label: t("types.firstField") }],
        },
      ])}>{t("types.blockAdd")}</Button
  >
</div>
