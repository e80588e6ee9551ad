<script lang="ts">
  import "../../messages/translation";
  import { t } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import Checkbox from "../../ui/Checkbox.svelte";
  import { glossariesQuery, memoriesQuery } from "./queries";

  /** Which memories or glossaries are looked into: all where none is named. Where there is only one, there is nothing to choose. */
  interface Props {
    what: "memories" | "glossaries";
    chosen: string[];
    fixed?: boolean;
    busy?: boolean;
    onChange: (chosen: string[]) => void;
  }
  let { what, chosen, fixed = false, busy = false, onChange }: Props = $props();
  // What it is about never changes.
  /* svelte-ignore state_referenced_locally */
  const found = what === "memories" ? memoriesQuery() : glossariesQuery();
  const all = $derived<{ id: string; name: string }[]>(found.data?.items ?? []);

  function change(id: string): void {
    const every = all.map((one) => one.id);
    const now = toggled(chosen.length ? chosen : every, id);
    onChange(now.length === every.length ? [] : now);
  }
</script>

{#if all.length > 1}
  <fieldset disabled={fixed || busy}>
    <legend class="pb-1">{t(`commissions.${what}`)}</legend>
    {#each all as one (one.id)}
      <label class="flex items-center gap-2">
        <Checkbox
          checked={!chosen.length || chosen.includes(one.id)}
          disabled={fixed}
          onchange={() => change(one.id)}
        />
        {one.name}
      </label>
    {/each}
  </fieldset>
{/if}
