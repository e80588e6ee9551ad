<script lang="ts">
  import { t } from "../../../../lib/i18n";
  import Blocks from "./blocks.svelte";
  import Members from "../Members.svelte";
  import type { FieldProps } from "../props";

  let props: FieldProps = $props();
  const { spec, entry, value, readonly, onType, id, version } = $derived(props);
</script>

{#if spec.many}
  <Blocks {...props} />
{:else}
  <fieldset class="sheet flex flex-col gap-4 p-3" {id}>
    <legend class="sr-only">{spec.label || t("fields.group")}</legend>
    <Members
      specs={spec.fields ?? []}
      {entry}
      values={(value as Record<string, unknown> | null | undefined) ?? {}}
      {readonly}
      {version}
      within={id}
      onType={(values) => onType(Object.keys(values).length ? values : null)}
    />
  </fieldset>
{/if}
