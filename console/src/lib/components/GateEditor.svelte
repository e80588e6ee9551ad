<script lang="ts">
  import type { StageSpec } from "../api";
  import { t } from "../i18n";
  import { session } from "../state/session.svelte";

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

  function toggled(list: string[] | undefined, value: string): string[] {
    return list?.includes(value) ? list.filter((one) => one !== value) : [...(list ?? []), value];
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
          ><input
            type="checkbox"
            class="rounded"
            checked={gate[forRoles]?.includes(role.name)}
            onchange={() => set({ [forRoles]: toggled(gate[forRoles], role.name) })}
          />{role.label}</label
        >
      {/each}
    </div>
    <details class="text-sm" open={!!gate[forPeople]?.length}>
      <summary class="text-moss">{t("flows.byPerson")}</summary>
      <div class="flex flex-wrap gap-x-4 gap-y-1 pt-1">
        {#each people as person (person.handle)}
          <label class="flex items-center gap-1.5"
            ><input
              type="checkbox"
              class="rounded"
              checked={gate[forPeople]?.includes(person.handle)}
              onchange={() => set({ [forPeople]: toggled(gate[forPeople], person.handle) })}
            />{person.name}</label
          >
        {/each}
      </div>
    </details>
  </fieldset>
{/snippet}

<div class="flex flex-col gap-4">
  <div class="flex flex-wrap gap-4">
    <label class="flex flex-col gap-1 text-sm"
      >{t("flows.signOffs")}<input
        class="field w-24"
        type="number"
        min="0"
        max="20"
        value={gate.sign_offs}
        onchange={(event) => set({ sign_offs: Number(event.currentTarget.value) })}
      /></label
    >
    <label class="flex min-w-0 flex-1 flex-col gap-1 text-sm"
      >{t("flows.author")}
      <select
        class="field"
        value={gate.author}
        onchange={(event) => set({ author: event.currentTarget.value as StageSpec["gate"]["author"] })}
      >
        {#each ["no", "with another", "yes"] as one (one)}<option value={one}
            >{t(`flows.author_${one}`)}</option
          >{/each}
      </select></label
    >
  </div>
  {#if gate.sign_offs}{@render parties(t("flows.signers"), t("flows.signersAbout"), "roles", "people")}{/if}
  <fieldset class="flex flex-col gap-1">
    <legend class="font-semibold">{t("flows.checks")}</legend>
    {#each session.setup?.checks ?? [] as check (check.name)}
      <label class="flex items-center gap-2 text-sm"
        ><input
          type="checkbox"
          class="rounded"
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
          >{t("flows.customName")}<input
            class="field"
            value={check.name}
            onchange={(event) =>
              set({ custom: gate.custom!.with(n, { ...check, name: event.currentTarget.value }) })}
          /></label
        >
        <label class="flex flex-col text-sm"
          >{t("flows.customHolds")}<input
            class="field font-mono"
            dir="ltr"
            spellcheck="false"
            value={check.holds}
            onchange={(event) =>
              set({ custom: gate.custom!.with(n, { ...check, holds: event.currentTarget.value }) })}
          /></label
        >
        <label class="flex flex-col text-sm sm:col-span-2"
          >{t("flows.customSays")}<input
            class="field"
            value={check.says}
            onchange={(event) =>
              set({ custom: gate.custom!.with(n, { ...check, says: event.currentTarget.value }) })}
          /></label
        >
        <button
          type="button"
          class="act justify-self-start"
          onclick={() => set({ custom: gate.custom!.toSpliced(n, 1) })}
          >{t("flows.customDrop", { name: check.name })}</button
        >
      </div>
    {/each}
    <button
      type="button"
      class="act self-start"
      onclick={() => set({ custom: [...(gate.custom ?? []), { name: "", holds: "", says: "" }] })}
      >{t("flows.customAdd")}</button
    >
  </fieldset>
  <label class="flex flex-col gap-1 text-sm" for="{id}-embedded"
    >{t("flows.embedded")}
    <select
      id="{id}-embedded"
      class="field"
      value={gate.embedded}
      onchange={(event) => set({ embedded: event.currentTarget.value as StageSpec["gate"]["embedded"] })}
    >
      {#each ["warn", "hold"] as one (one)}<option value={one}>{t(`flows.embedded_${one}`)}</option>{/each}
    </select></label
  >
  {@render parties(t("flows.overriders"), t("flows.overridersAbout"), "override_roles", "override_people")}
</div>
