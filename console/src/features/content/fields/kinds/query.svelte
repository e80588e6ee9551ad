<script lang="ts">
  import { t } from "../../../../lib/i18n";
  import { topicsQuery } from "../../../search/queries";
  import { session } from "../../../../lib/state/session.svelte";
  import type { FieldProps } from "../props";
  import Checkbox from "../../../../ui/Checkbox.svelte";
  import Input from "../../../../ui/Input.svelte";
  import Select from "../../../../ui/Select.svelte";
  import { toggled } from "../../../../lib/lists";

  let { value, readonly, onType, id }: FieldProps = $props();

  interface Rule {
    types: string[];
    topic?: string;
    tag?: string;
    days?: number | null;
    order?: string;
    limit?: number;
  }
  const rule = $derived((value as Rule | null | undefined) ?? { types: [] });
  const types = $derived(session.setup?.types ?? []);
  const trees = $derived(
    types.filter(
      (type) =>
        !type.site &&
        type.fields.some((f) => f.kind === "parent") &&
        !type.fields.some((f) => f.kind === "slug"),
    ),
  );
  const topics = topicsQuery(() => trees[0]?.name ?? "");

  function change(part: Partial<Rule>): void {
    const next = { ...rule, ...part };
    onType(next.types.length ? next : null);
  }
</script>

<div class="flex flex-col gap-3" role="group" aria-labelledby="{id}-label" {id}>
  <fieldset>
    <legend class="text-sm">{t("query.types")}</legend>
    <div class="flex flex-wrap gap-x-4 gap-y-1 pt-1">
      {#each types.filter((type) => !type.common && !type.menu) as type (type.name)}
        <label class="flex items-center gap-1.5"
          ><Checkbox
            disabled={readonly}
            checked={rule.types.includes(type.name)}
            onchange={() => change({ types: toggled(rule.types, type.name) })}
          />{type.label}</label
        >
      {/each}
    </div>
  </fieldset>
  <div class="flex flex-wrap gap-3">
    {#if topics.data?.items.length}
      <label class="flex flex-col text-sm"
        >{t("query.topic")}
        <Select
          disabled={readonly}
          value={rule.topic ?? ""}
          onchange={(event) => change({ topic: event.currentTarget.value || undefined })}
        >
          <option value="">{t("query.anyTopic")}</option>
          {#each topics.data.items as one (one.id)}<option value={one.id}>{one.title}</option>{/each}
        </Select></label
      >
    {/if}
    <label class="flex flex-col text-sm"
      >{t("query.tag")}<Input
        class="w-32!"
        {readonly}
        value={rule.tag ?? ""}
        onchange={(event) => change({ tag: event.currentTarget.value || undefined })}
      /></label
    >
    <label class="flex flex-col text-sm"
      >{t("query.days")}<Input
        class="w-28!"
        type="number"
        min="1"
        max="3660"
        {readonly}
        value={rule.days ?? ""}
        onchange={(event) => change({ days: event.currentTarget.valueAsNumber || undefined })}
      /></label
    >
    <label class="flex flex-col text-sm"
      >{t("query.order")}
      <Select
        disabled={readonly}
        value={rule.order ?? "newest"}
        onchange={(event) => change({ order: event.currentTarget.value })}
      >
        {#each ["newest", "oldest", "title"] as one (one)}<option value={one}>{t(`query.${one}`)}</option
          >{/each}
      </Select></label
    >
    <label class="flex flex-col text-sm"
      >{t("query.limit")}<Input
        class="w-20!"
        type="number"
        min="1"
        max="50"
        {readonly}
        value={rule.limit ?? 5}
        onchange={(event) => change({ limit: event.currentTarget.valueAsNumber || 5 })}
      /></label
    >
  </div>
</div>
