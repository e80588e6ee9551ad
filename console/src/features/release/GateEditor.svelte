<script lang="ts">
  import "../../messages/setup";
  import type { StageSpec } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import { toggled } from "../../lib/lists";

  /** The gate before a stage, to be changed in place. */
  interface Props {
    stage: StageSpec;
    roles: { name: string; label: string }[];
    people: { handle: string; name: string }[];
    onChange: (stage: StageSpec) => void;
  }
  let { stage, roles, people, onChange }: Props = $props();
  const gate = $derived(stage.gate);
  const id = $derived(`gate-${stage.name}`);

  function set(part: Partial<StageSpec["gate"]>): void {
    onChange({ ...stage, gate: { ...gate, ...part } });
  }
</script>

{#snippet parties(
  legend: string,
  about: string,
  forRoles: "roles" | "override_roles",
  forPeople: "people" | "override_people",
)}
  <fieldset class="flex flex-col gap-1">
    <legend class="font-semibold">{legend}</legend>
    <p class="text-sm text-moss">{about}</p>
    <div class="flex flex-wrap gap-x-4 gap-y-1 text-sm">
      {#each roles as role (role.name)}
        <label class="flex items-center gap-1.5"
          ><Checkbox
            checked={gate[forRoles]?.includes(role.name)}
            onchange={() => set({ [forRoles]: toggled(gate[forRoles], role.name) })}
          />{role.label}</label
        >
      {/each}
    </div>
    <Disclosure title={t("flows.byPerson")} class="text-sm" open={!!gate[forPeople]?.length}>
      <div class="flex flex-wrap gap-x-4 gap-y-1 pt-1">
        {#each people as person (person.handle)}
          <label class="flex items-center gap-1.5"
            ><Checkbox
              checked={gate[forPeople]?.includes(person.handle)}
              onchange={() => set({ [forPeople]: toggled(gate[forPeople], person.handle) })}
            />{person.name}</label
          >
        {/each}
      </div>
    </Disclosure>
  </fieldset>
{/snippet}

<div class="flex flex-col gap-4">
  <div class="flex flex-wrap gap-4">
    <label class="flex flex-col gap-1 text-sm"
      >{t("flows.signOffs")}<Input
        class="w-24!"
        type="number"
        min="0"
        max="20"
        value={gate.sign_offs}
        oninput={({ currentTarget: { value } }) => value && set({ sign_offs: Number(value) })}
        onchange={(event) => set({ sign_offs: Number(event.currentTarget.value) })}
      /></label
    >
    <label class="flex min-w-0 flex-1 flex-col gap-1 text-sm"
      >{t("flows.author")}
      <Select
        value={gate.author}
        onchange={(event) => set({ author: event.currentTarget.value as StageSpec["gate"]["author"] })}
      >
        {#each ["no", "with another", "yes"] as one (one)}<option value={one}
            >{t(`flows.author_${one}`)}</option
          >{/each}
      </Select></label
    >
  </div>
  {#if gate.sign_offs}{@render parties(t("flows.signers"), t("flows.signersAbout"), "roles", "people")}{/if}
  {#if gate.sign_offs && stage.name === "release"}
    <label class="flex items-start gap-2 text-sm"
      ><Checkbox
        class="mt-0.5"
        checked={gate.leaving}
        onchange={() => set({ leaving: !gate.leaving })}
      /><span>{t("flows.leaving")} <span class="block text-moss">{t("flows.leavingAbout")}</span></span
      ></label
    >
  {/if}
  <fieldset class="flex flex-col gap-1">
    <legend class="font-semibold">{t("flows.checks")}</legend>
    {#each session.setup?.checks ?? [] as check (check.name)}
      <label class="flex items-center gap-2 text-sm"
        ><Checkbox
          checked={gate.checks?.includes(check.name)}
          onchange={() => set({ checks: toggled(gate.checks, check.name) })}
        />{check.label}</label
      >
    {/each}
  </fieldset>
  <fieldset class="flex flex-col gap-2">
    <legend class="font-semibold">{t("flows.custom")}</legend>
    <p class="text-sm text-moss">
      {t("flows.customAbout")} <code>size(title) &lt;= 60 &amp;&amp; has(body)</code>
    </p>
    {#each gate.custom ?? [] as check, n (n)}
      <div class="sheet grid gap-2 p-2 sm:grid-cols-2">
        <label class="flex flex-col text-sm"
          >{t("flows.customName")}<Input
            value={check.name}
            onchange={(event) =>
              set({ custom: gate.custom!.with(n, { ...check, name: event.currentTarget.value }) })}
          /></label
        >
        <label class="flex flex-col text-sm"
          >{t("flows.customHolds")}<Input
            class="font-mono"
            dir="ltr"
            spellcheck="false"
            value={check.holds}
            onchange={(event) =>
              set({ custom: gate.custom!.with(n, { ...check, holds: event.currentTarget.value }) })}
          /></label
        >
        <label class="flex flex-col text-sm sm:col-span-2"
          >{t("flows.customSays")}<Input
            value={check.says}
            onchange={(event) =>
              set({ custom: gate.custom!.with(n, { ...check, says: event.currentTarget.value }) })}
          /></label
        >
        <Button class="justify-self-start" onclick={() => set({ custom: gate.custom!.toSpliced(n, 1) })}
          >{t("flows.customDrop", { name: check.name })}</Button
        >
      </div>
    {/each}
    <Button
      class="self-start"
      onclick={() => set({ custom: [...(gate.custom ?? []), { name: "", holds: "", says: "" }] })}
      >{t("flows.customAdd")}</Button
    >
  </fieldset>
  <label class="flex flex-col gap-1 text-sm" for="{id}-embedded"
    >{t("flows.embedded")}
    <Select
      id="{id}-embedded"
      value={gate.embedded}
      onchange={(event) => set({ embedded: event.currentTarget.value as StageSpec["gate"]["embedded"] })}
    >
      {#each ["warn", "hold"] as one (one)}<option value={one}>{t(`flows.embedded_${one}`)}</option>{/each}
    </Select></label
  >
  {@render parties(t("flows.overriders"), t("flows.overridersAbout"), "override_roles", "override_people")}
</div>
