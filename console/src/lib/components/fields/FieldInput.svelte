<script lang="ts">
  import type { Component } from "svelte";
  import type { Entry, FieldSpec } from "../../api";
  import { t } from "../../i18n";
  import Canonical from "../Canonical.svelte";
  import ChoiceField from "./ChoiceField.svelte";
  import DateField from "./DateField.svelte";
  import FileField from "./FileField.svelte";
  import NumberField from "./NumberField.svelte";
  import ReferenceField from "./ReferenceField.svelte";
  import RichField from "./RichField.svelte";
  import TagsField from "./TagsField.svelte";
  import TextField from "./TextField.svelte";
  import YesNoField from "./YesNoField.svelte";
  import type { FieldProps } from "./props";

  interface Props {
    spec: FieldSpec;
    entry: Entry;
    value: unknown;
    readonly: boolean;
    lacking: boolean;
    onType: (value: unknown) => void;
    version: number;
  }
  let { spec, entry, value, readonly, lacking, onType, version }: Props = $props();

  /** The editor component of each field kind. */
  const editors: Record<string, Component<FieldProps>> = {
    line: TextField,
    text: TextField,
    slug: TextField,
    rich: RichField,
    number: NumberField,
    yesno: YesNoField,
    date: DateField,
    choice: ChoiceField,
    reference: ReferenceField,
    below: ReferenceField,
    tags: TagsField,
    file: FileField,
  };
  const Editor = $derived(editors[spec.kind] ?? TextField);
  const id = $derived(`field-${spec.name}`);
  const source = $derived(entry.source_fields[spec.name]);
</script>

<div class="flex flex-col gap-1" data-field={spec.name}>
  <div class="flex flex-wrap items-baseline gap-x-2">
    <label for={id} id="{id}-label" class="font-semibold">{spec.label}</label>
    {#if spec.required}<span class="text-sm {lacking ? 'font-semibold text-straw' : 'text-moss'}"
        >{t("entry.required")}</span
      >{/if}
    {#if spec.shared}<span class="rounded bg-wash px-1.5 text-sm text-moss">{t("entry.sharedMark")}</span
      >{/if}
  </div>
  <Editor {spec} {entry} {value} {readonly} {onType} {id} {version} />
  {#if spec.help}<p id="{id}-help" class="text-sm text-moss">{spec.help}</p>{/if}
  {#if source && !spec.shared && (spec.kind === "line" || spec.kind === "text" || spec.kind === "rich")}
    <details class="text-sm" open>
      <summary class="text-moss">{t("entry.sourceText")} ({entry.source_locale})</summary>
      <div class="prose-text border-s-2 ps-3 text-moss" lang={entry.source_locale}>
        {#if spec.kind === "rich"}<Canonical html={String(source)} />{:else}{source}{/if}
      </div>
    </details>
  {/if}
</div>
