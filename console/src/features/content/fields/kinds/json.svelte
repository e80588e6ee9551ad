<script lang="ts">
  import { untrack } from "svelte";
  import { t } from "../../../../lib/i18n";
  import type { FieldProps } from "../props";
  import Textarea from "../../../../ui/Textarea.svelte";

  let { value, readonly, onType, id, version }: FieldProps = $props();
  let text = $state("");
  let wrong = $state("");
  $effect(() => {
    void version;
    text = untrack(() => (value == null ? "" : JSON.stringify(value, null, 2)));
    wrong = "";
  });

  function type(typed: string): void {
    text = typed;
    try {
      onType(typed.trim() ? JSON.parse(typed) : null);
      wrong = "";
    } catch (error) {
      wrong = error instanceof Error ? error.message : String(error);
    }
  }
</script>

<Textarea
  {id}
  class="font-mono text-sm"
  rows={4}
  spellcheck="false"
  value={text}
  {readonly}
  aria-invalid={wrong !== ""}
  aria-describedby="{id}-wrong"
  oninput={(event) => type(event.currentTarget.value)}
/>
<p id="{id}-wrong" class="text-sm text-straw" role="status">
  {wrong ? t("fields.notJson", { why: wrong }) : ""}
</p>
