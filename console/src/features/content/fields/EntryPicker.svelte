<script lang="ts">
  import { api, sure, type Named } from "../../../lib/api";
  import { t } from "../../../lib/i18n";
  import { session } from "../../../lib/state/session.svelte";
  import Input from "../../../ui/Input.svelte";

  interface Props {
    label: string;
    /** What stands in the field while it is empty; the label when not given. */
    hint?: string;
    /** Only entries of this type. */
    type?: string;
    onChoose: (one: Named) => void;
  }
  let { label, hint = label, type = "", onChoose }: Props = $props();
  let text = $state("");
  let found = $state<Named[] | null>(null);
  let at = $state(0);
  let pending: ReturnType<typeof setTimeout>;
  let input = $state<HTMLInputElement>();
  const list = $props.id();

  function look(): void {
    clearTimeout(pending);
    const wanted = text.trim();
    if (!wanted) {
      found = null;
      return;
    }
    pending = setTimeout(async () => {
      const items = await lookUp(wanted).catch(() => null);
      if (items && wanted === text.trim()) {
        found = items;
        at = 0;
      }
    }, 120);
  }

  async function lookUp(wanted: string): Promise<Named[]> {
    if (!type)
      return (await sure(api.GET("/api/entries/lookup", { params: { query: { text: wanted } } }))).items;
    const query = { type, words: wanted, limit: 8 };
    const answer = await sure(api.GET("/api/entries", { params: { query } }));
    return answer.items.map((line) => ({ id: line.id, type: line.type, title: line.title, file: "" }));
  }

  /** Put the cursor here. */
  export function focus(): void {
    input?.focus();
    input?.select();
  }

  function choose(one: Named | undefined): void {
    if (!one) return;
    text = "";
    found = null;
    onChoose(one);
  }

  function onKey(event: KeyboardEvent): void {
    if (event.key === "Escape" && found) found = null;
    else if (event.key === "ArrowDown" && found) at = Math.min(at + 1, found.length - 1);
    else if (event.key === "ArrowUp" && found) at = Math.max(at - 1, 0);
    else if (event.key === "Enter" && found) choose(found[at]);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div class="relative">
  <Input
    type="search"
    role="combobox"
    aria-label={label}
    aria-expanded={found !== null}
    aria-controls={list}
    aria-activedescendant={found?.length ? `${list}-${at}` : undefined}
    placeholder={hint}
    autocomplete="off"
    bind:element={input}
    bind:value={text}
    oninput={look}
    onkeydown={onKey}
    onblur={() => setTimeout(() => (found = null), 150)}
  />
  <ul
    id={list}
    role="listbox"
    aria-label={label}
    class="sheet absolute z-40 mt-1 w-full shadow-lg {found ? '' : 'hidden'}"
  >
    {#each found ?? [] as one, n (one.id)}
      <li
        id="{list}-{n}"
        role="option"
        aria-selected={n === at}
        class="cursor-pointer px-3 py-2 {n === at ? 'bg-wash' : ''}"
        onpointerdown={(event) => {
          event.preventDefault();
          choose(one);
        }}
      >
        {one.title || t("list.untitled")}
        <span class="text-sm text-moss">{session.type(one.type)?.label}</span>
      </li>
    {:else}
      <li role="option" aria-selected="false" class="px-3 py-1.5 text-moss">{t("find.none")}</li>
    {/each}
  </ul>
</div>
