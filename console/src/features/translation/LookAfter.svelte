<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { tick } from "svelte";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import { sectionsQuery } from "../release/timetable";

  /** Looks after a memory or a glossary: its name, whose it is, another that is put into it, and its end. */
  interface Owned {
    id: string;
    name: string;
    section: string;
    may_manage: boolean;
  }
  interface Props {
    what: "memories" | "glossaries";
    one: Owned;
    all: Owned[];
  }
  let { what, one, all }: Props = $props();
  const queries = useQueryClient();
  const sections = sectionsQuery();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: [what] }));
  let open = $state(false);
  let name = $state("");
  let section = $state("");
  let other = $state("");
  const others = $derived(all.filter((each) => each.id !== one.id && each.may_manage));
  const at = $derived({ params: { path: { id: one.id } } });

  function begin(): void {
    [name, section, other, open] = [one.name, one.section, "", true];
  }

  async function keep(): Promise<void> {
    const done = await acting.do(async () => {
      const body = { name, section };
      if (what === "memories") await sure(api.PATCH("/api/memories/{id}", { ...at, body }));
      else await sure(api.PATCH("/api/glossaries/{id}", { ...at, body }));
      if (!other) return;
      if (what === "memories") await sure(api.POST("/api/memories/{id}/merge", { ...at, body: { other } }));
      else await sure(api.POST("/api/glossaries/{id}/merge", { ...at, body: { other } }));
      toasts.say(t("lookAfter.merged", { name, other: others.find((each) => each.id === other)?.name }));
    });
    if (done) open = false;
  }

  async function end(): Promise<void> {
    if (!confirm(t("lookAfter.sure", { name: one.name }))) return;
    const done = await acting.do(async () => {
      if (what === "glossaries") await sure(api.DELETE("/api/glossaries/{id}", at));
      // A large one goes a part at a time.
      else while ((await sure(api.DELETE("/api/memories/{id}", at))).more);
      // What is in it is not asked for once more.
      const gone = one.id;
      queries.setQueryData<{ items: Owned[] }>(
        [what],
        (have) => have && { ...have, items: have.items.filter((each) => each.id !== gone) },
      );
      await tick();
    });
    if (done) open = false;
  }
</script>

<Button onclick={begin}>{t("lookAfter.open")}<span class="sr-only"> {one.name}</span></Button>
<FormDialog
  bind:open
  title={t("lookAfter.title", { name: one.name })}
  go={t("lookAfter.save")}
  busy={acting.busy}
  ready={!!name.trim()}
  error={acting.error}
  onsubmit={keep}
>
  <label class="flex flex-col gap-1"
    >{t("lookAfter.name")}<Input bind:value={name} maxlength={120} required /></label
  >
  <label class="flex flex-col gap-1"
    >{t("lookAfter.section")}<Select bind:value={section}>
      <option value="">{t("lookAfter.everybody")}</option>
      {#each sections.data ?? [] as [id, title] (id)}<option value={id}>{title}</option>{/each}
    </Select></label
  >
  {#if others.length}
    <label class="flex flex-col gap-1"
      >{t("lookAfter.merge")}<Select bind:value={other}>
        <option value="">{t("lookAfter.none")}</option>
        {#each others as each (each.id)}<option value={each.id}>{each.name}</option>{/each}
      </Select></label
    >
    {#if other}<p class="text-sm text-moss">{t("lookAfter.mergeAbout")}</p>{/if}
  {/if}
  {#snippet more()}<Button disabled={acting.busy} onclick={end}>{t("lookAfter.end")}</Button>{/snippet}
</FormDialog>
