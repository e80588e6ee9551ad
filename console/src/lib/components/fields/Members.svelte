<script lang="ts">
  import type { Entry, FieldSpec } from "../../api";
  import FieldInput from "./FieldInput.svelte";

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

  function type(name: string, value: unknown): void {
    const next = { ...values };
    if (value === null || value === undefined || value === "") delete next[name];
    else next[name] = value;
    onType(next);
  }
</script>

{#each specs as spec (spec.name)}
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
{/each}
