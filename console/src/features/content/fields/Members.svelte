<script lang="ts">
  import type { Entry, FieldSpec } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import FieldInput from "./FieldInput.svelte";
  import Disclosure from "../../../ui/Disclosure.svelte";

  interface Props {
    specs: FieldSpec[];
    entry: Entry;
    values: Record<string, unknown>;
    readonly: boolean;
    version: number;
    within: string;
    onType: (values: Record<string, unknown>) => void;
  }
  let { specs, entry, values, readonly, version, within, onType }: Props = $props();

  const options = $derived(specs.filter((spec) => spec.option));
  /** What is chosen, so that it is seen without opening. */
  const chosen = $derived(
    options
      .filter((spec) => values[spec.name] !== undefined && values[spec.name] !== null)
      .map((spec) => `${spec.label} ${String(values[spec.name])}`)
      .join(", "),
  );

  function type(name: string, value: unknown): void {
    const next = { ...values };
    if (value === null || value === undefined || value === "") delete next[name];
    else next[name] = value;
    onType(next);
  }
</script>

{#snippet field(spec: FieldSpec)}
  <FieldInput
    {spec}
    {entry}
    {version}
    {within}
    value={values[spec.name]}
    {readonly}
    lacking={false}
    onType={(value) => type(spec.name, value)}
  />
{/snippet}
{#each specs.filter((spec) => !spec.option) as spec (spec.name)}{@render field(spec)}{/each}
{#if options.length}
  <Disclosure title={`${t("blocks.options")}${chosen ? `: ${chosen}` : ""}`} class="rounded border px-3 py-2">
    <div class="grid gap-3 pt-2 sm:grid-cols-2">
      {#each options as spec (spec.name)}{@render field(spec)}{/each}
    </div>
  </Disclosure>
{/if}
