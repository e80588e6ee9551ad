<script lang="ts">
  import EntryPicker from "../content/fields/EntryPicker.svelte";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { navigate } from "../../router";

  let picker: EntryPicker;

  /** Put the cursor here, over what was looked for last. */
  export function focus(): void {
    picker.focus();
  }

  function go(id: string): void {
    const locale = session.setup?.locales[0]?.tag ?? "en";
    void navigate("/entries/:id/:locale", { params: { id, locale } });
  }
</script>

<div class="w-full max-w-sm">
  <EntryPicker
    bind:this={picker}
    label={t("find.label")}
    hint={t("find.hint")}
    onChoose={(one) => go(one.id)}
  />
</div>
