<script lang="ts">
  import { t } from "../../../lib/i18n";
  import { session } from "../../../lib/state/session.svelte";
  import type { FieldProps } from "./props";
  import Input from "../../../ui/Input.svelte";
  import Textarea from "../../../ui/Textarea.svelte";

  let { spec, entry, value, readonly, onType, id }: FieldProps = $props();
  const text = $derived(String(value ?? ""));
  const locale = $derived(spec.shared ? undefined : entry.locale);
  const dir = $derived(locale && session.locale(locale)?.rtl ? "rtl" : "auto");
  const described = $derived(spec.help ? `${id}-help` : undefined);
  const title = $derived(spec.name === session.type(entry.type)?.title);
</script>

{#if spec.kind === "text"}
  <Textarea
    {id}
    class="font-serif"
    rows={3}
    value={text}
    {readonly}
    lang={locale}
    {dir}
    spellcheck="true"
    aria-describedby={described}
    oninput={(event) => onType(event.currentTarget.value)}
  />
{:else}
  <Input
    {id}
    class={title ? "font-serif text-xl font-semibold" : ""}
    value={text}
    {readonly}
    lang={locale}
    {dir}
    spellcheck={spec.kind === "line"}
    aria-describedby={described}
    oninput={(event) => onType(event.currentTarget.value)}
  />
{/if}
{#if spec.limit && text.length > spec.limit * 0.7}
  <p class="text-sm {text.length > spec.limit ? 'font-semibold text-straw' : 'text-moss'}" role="status">
    {t("fields.characters", { count: text.length, limit: spec.limit })}
  </p>
{/if}
