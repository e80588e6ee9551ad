<script lang="ts">
  import "../../messages/setup";
  import PolicyForm from "./PolicyForm.svelte";
  import FieldsEditor from "./FieldsEditor.svelte";
  import type { Definition } from "./types";
  import { t } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import { session } from "../../lib/state/session.svelte";
  import type { Draft } from "../../lib/types";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";

  /** A type, or a set of fields, as a form. */
  interface Props {
    draft: Definition;
    isSet: boolean;
    fresh: boolean;
    disabled: boolean;
    set: (part: Partial<Definition>) => void;
  }
  let { draft, isSet, fresh, disabled, set }: Props = $props();
  /** Its own fields and those of its sets. */
  const whole = $derived([
    ...draft.fields,
    ...(session.setup?.sets ?? [])
      .filter((one) => draft.sets?.includes(one.name))
      .flatMap((one) => one.fields as Draft[]),
  ]);
  /** What programs take an entry for where nothing is said, by its name in schema.org. */
  const usual = "WebPage";
  /** The fields that stand for something, and of which kinds they may be. */
  const roles = [
    { role: "internal", kinds: ["line"] },
    { role: "pinned", kinds: ["boolean"] },
    { role: "dated", kinds: ["date", "instant"] },
    { role: "search_title", kinds: ["line"] },
    { role: "meta_description", kinds: ["text", "line"] },
    { role: "search_picture", kinds: ["reference"] },
  ] as const;
</script>

<fieldset {disabled} class="flex flex-col gap-5">
  <div class="grid gap-3 sm:grid-cols-2">
    <label class="flex flex-col gap-1"
      >{t("types.label")}<Input
        value={draft.label ?? ""}
        oninput={(event) => set({ label: event.currentTarget.value })}
      /></label
    >
    <label class="flex flex-col gap-1"
      >{t("types.name")}<Input
        class="font-mono"
        value={draft.name}
        disabled={!fresh}
        onchange={(event) => set({ name: event.currentTarget.value })}
      /></label
    >
    <label class="flex flex-col gap-1 sm:col-span-2"
      >{t("types.help")}<Input
        value={draft.help ?? ""}
        oninput={(event) => set({ help: event.currentTarget.value })}
      /></label
    >
  </div>
  {#if !isSet}
    <div class="flex flex-wrap gap-x-5 gap-y-2">
      {#each ["single", "section", "site", "common", "menu", "read_only", "confidential", "retired"] as const as flag (flag)}
        <label class="flex items-center gap-2"
          ><Checkbox
            checked={draft[flag] ?? false}
            onchange={(event) => set({ [flag]: event.currentTarget.checked })}
          />{t(`types.flag_${flag}`)}</label
        >
      {/each}
      {#each ["translated", "public"] as const as flag (flag)}
        <label class="flex items-center gap-2"
          ><Checkbox
            checked={draft[flag] !== false}
            onchange={(event) => set({ [flag]: event.currentTarget.checked })}
          />{t(`types.flag_${flag}`)}</label
        >
      {/each}
      <label class="flex items-center gap-2"
        >{t("types.workflow")}
        <Select
          class="w-auto"
          value={draft.workflow ?? "standard"}
          onchange={(event) => set({ workflow: event.currentTarget.value })}
        >
          {#each session.setup?.workflows ?? [] as one (one.name)}<option value={one.name}>{one.label}</option
            >{/each}
        </Select></label
      >
      <label class="flex items-center gap-2"
        >{t("types.layout")}
        <Select
          class="w-auto"
          value={draft.layout ?? ""}
          onchange={(event) => set({ layout: event.currentTarget.value })}
        >
          <option value="">{t("fields.noChoice")}</option>
          {#each (session.setup?.types ?? []).filter((one) => one.single && one.name !== draft.name) as one (one.name)}<option
              value={one.name}>{one.label}</option
            >{/each}
        </Select></label
      >
    </div>
  {/if}
  {#if !isSet}<PolicyForm policy={draft.policy ?? {}} onChange={(policy) => set({ policy })} />{/if}
  <section aria-labelledby="its-fields">
    <h2 id="its-fields" class="pb-2 text-lg font-semibold">{t("types.fields")}</h2>
    <FieldsEditor fields={draft.fields} around={whole} onChange={(fields) => set({ fields })} />
  </section>
  {#if !isSet && (session.setup?.sets.length ?? 0) > 0}
    <fieldset class="flex flex-wrap gap-x-5 gap-y-2">
      <legend class="pb-1 font-semibold">{t("setUp.sets")}</legend>
      {#each session.setup?.sets ?? [] as one (one.name)}
        <label class="flex items-center gap-2"
          ><Checkbox
            checked={draft.sets?.includes(one.name) ?? false}
            onchange={() => set({ sets: toggled(draft.sets ?? [], one.name) })}
          />{one.label}</label
        >
      {/each}
    </fieldset>
  {/if}
  {#if !isSet}
    <div class="grid gap-3 sm:grid-cols-3">
      {#each roles as one (one.role)}
        <label class="flex flex-col gap-1 text-sm"
          >{t(`types.role_${one.role}`)}
          <Select
            value={draft[one.role] ?? ""}
            onchange={(event) => set({ [one.role]: event.currentTarget.value })}
          >
            <option value="">{t("fields.noChoice")}</option>
            {#each whole.filter( (field) => (one.kinds as readonly string[]).includes(field.kind) ) as field (field.name)}<option
                value={field.name}>{field.label ?? field.name}</option
              >{/each}
          </Select></label
        >
      {/each}
      <label class="flex flex-col gap-1 text-sm"
        >{t("types.schemaType")}<Input
          class="font-mono"
          value={draft.schema_type ?? ""}
          placeholder={usual}
          onchange={(event) => set({ schema_type: event.currentTarget.value.trim() })}
        /></label
      >
    </div>
  {/if}
</fieldset>
