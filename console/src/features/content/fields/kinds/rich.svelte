<script lang="ts">
  import Trouble from "../../../../ui/Trouble.svelte";
  import Canonical from "../../../delivery/Canonical.svelte";
  import { t } from "../../../../lib/i18n";
  import { session } from "../../../../lib/state/session.svelte";
  import type { FieldProps } from "../props";

  let { entry, value, readonly, onType, id, version }: FieldProps = $props();
  const html = $derived(String(value ?? ""));
  const dir = $derived(session.locale(entry.locale)?.rtl ? "rtl" : "auto");
  const editor = import("../RichEditor.svelte");
</script>

{#if readonly}
  <div {id} class="prose-text sheet px-4 py-2" lang={entry.locale} {dir}><Canonical {html} /></div>
{:else}
  {#await editor}
    <!-- As high as the editor that comes in its place, so that nothing below moves. -->
    <div class="sheet border-edge">
      <div class="min-h-[41px] border-b px-4 py-2 text-sm text-moss" role="status">{t("app.loading")}</div>
      <div class="prose-text min-h-48 px-4 py-2" lang={entry.locale} {dir}><Canonical {html} /></div>
    </div>
  {:then loaded}
    {#key version}
      <loaded.default
        {html}
        {id}
        lang={entry.locale}
        {dir}
        references={entry.references}
        locale={entry.source_locale}
        {onType}
      />
    {/key}
  {:catch error}
    <!-- What was typed elsewhere on the page is kept in the browser. -->
    <Trouble {error} again={() => location.reload()} />
  {/await}
{/if}
