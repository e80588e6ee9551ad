<script lang="ts">
  import { api, once, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { templatesQuery } from "./queries";
  import { session } from "../../lib/state/session.svelte";
  import { navigate } from "../../router";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";

  const LAST = "hawthorn:started";
  let { open = $bindable(false) }: { open: boolean } = $props();
  // What a team may start: a retired type takes no more entries, a read-only one no words.
  const types = $derived((session.setup?.types ?? []).filter((one) => !one.retired && !one.read_only));
  const templates = templatesQuery();
  let type = $state("");
  let template = $state("");
  let title = $state("");
  let locale = $state(session.setup?.locales[0]?.tag ?? "en");
  let error = $state<unknown>(null);
  let busy = $state(false);
  const from = $derived(templates.data?.items.find((one) => one.id === template));
  const chosen = $derived(types.find((one) => one.name === (from?.type ?? type)) ?? types[0]);

  $effect(() => {
    if (!open || type) return;
    // Most people start the same kind of thing, in the same language, again and again.
    const [lastType, lastLocale] = (localStorage.getItem(LAST) ?? "").split(" ");
    if (types.some((one) => one.name === lastType)) type = lastType!;
    if (session.setup?.locales.some((one) => one.tag === lastLocale)) locale = lastLocale!;
  });

  async function go(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!chosen) return;
    busy = true;
    error = null;
    try {
      const fields = title ? { [chosen.title]: title } : {};
      const entry = await sure(
        template
          ? api.POST("/api/templates/{id}/entries", {
              params: { header: once(), path: { id: template } },
              body: { locale, fields, note: "" },
            })
          : api.POST("/api/entries", {
              params: { header: once() },
              body: { type: chosen.name, locale, fields, note: "" },
            }),
      );
      localStorage.setItem(LAST, `${chosen.name} ${locale}`);
      open = false;
      title = "";
      await navigate("/entries/:id/:locale", { params: { id: entry.id, locale } });
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog bind:open title={t("start.title")} go={t("start.go")} {busy} {error} onsubmit={go}>
  <label class="flex flex-col gap-1"
    >{t("start.type")}
    <Select
      value={template ? `template:${template}` : chosen?.name}
      onchange={(event) => {
        const value = event.currentTarget.value;
        template = value.startsWith("template:") ? value.slice(9) : "";
        if (!template) type = value;
      }}
    >
      {#each types as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
      {#if templates.data?.items.length}
        <optgroup label={t("start.templates")}>
          {#each templates.data.items as one (one.id)}<option value="template:{one.id}">{one.name}</option
            >{/each}
        </optgroup>
      {/if}
    </Select>
  </label>
  {#if chosen?.help}<p class="-mt-2 text-sm text-moss"><bdi>{chosen.help}</bdi></p>{/if}
  <label class="flex flex-col gap-1">{t("start.name")}<Input bind:value={title} maxlength={300} /></label>
  <label class="flex flex-col gap-1"
    >{t("start.locale")}
    <Select bind:value={locale}>
      {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option>{/each}
    </Select>
  </label>
</FormDialog>
