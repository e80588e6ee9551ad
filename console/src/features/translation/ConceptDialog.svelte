<script lang="ts">
  import "../../messages/translation";
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Concept, type Glossary } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";

  /** A concept is written: what it is, and what it is called in which language. */
  let { glossary, concept, onClose }: { glossary: Glossary; concept?: Concept; onClose: () => void } =
    $props();
  const queries = useQueryClient();
  type Term = Concept["terms"][number];
  const locales = session.setup?.locales ?? [];
  const blank = (locale: string): Term => ({ locale, text: "", status: "preferred" });
  let note = $state(untrack(() => concept?.note ?? ""));
  let terms = $state<Term[]>(
    untrack(() => {
      const have = (concept?.terms ?? []).map((one) => ({ ...one }));
      const missing = locales.filter((one) => !have.some((term) => term.locale === one.tag));
      return [...have, ...missing.map((one) => blank(one.tag))];
    }),
  );
  let busy = $state(false);
  let error = $state<unknown>(null);

  async function save(): Promise<void> {
    busy = true;
    error = null;
    const body = { note, terms: terms.filter((one) => one.text.trim()) };
    const path = { id: glossary.id };
    try {
      if (concept)
        await sure(
          api.PUT("/api/glossaries/{id}/concepts/{number}", {
            params: { path: { ...path, number: concept.id } },
            body,
          }),
        );
      else await sure(api.POST("/api/glossaries/{id}/concepts", { params: { path }, body }));
      await queries.invalidateQueries({ queryKey: ["glossaries"] });
      onClose();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open
  size="lg"
  title={t(concept ? "glossaries.concept" : "glossaries.addConcept")}
  go={t("glossaries.save")}
  {busy}
  {error}
  ready={terms.some((one) => one.text.trim())}
  onclose={onClose}
  onsubmit={save}
>
  <label class="flex flex-col gap-1">{t("glossaries.note")}<Input bind:value={note} /></label>
  <ul class="flex flex-col gap-2">
    {#each terms as term, n (n)}
      <li class="flex flex-wrap gap-2">
        <Select
          class="w-auto!"
          aria-label={t("glossaries.language_of", { number: n + 1 })}
          bind:value={term.locale}
        >
          {#each locales as one (one.tag)}<option value={one.tag}>{one.name}</option>{/each}
        </Select>
        <Input
          class="min-w-40 flex-1"
          lang={term.locale}
          dir="auto"
          maxlength={200}
          aria-label={t("glossaries.term_of", { number: n + 1 })}
          bind:value={term.text}
        />
        <Select
          class="w-auto!"
          aria-label={t("glossaries.status_of", { number: n + 1 })}
          bind:value={term.status}
        >
          {#each ["preferred", "admitted", "deprecated"] as status (status)}<option value={status}
              >{t(`glossaries.${status}`)}</option
            >{/each}
        </Select>
      </li>
    {/each}
  </ul>
  <Button
    class="self-start"
    onclick={() => (terms = [...terms, blank(terms.at(-1)?.locale ?? locales[0]?.tag ?? "")])}
    >{t("glossaries.another")}</Button
  >
</FormDialog>
