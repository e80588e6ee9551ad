<script lang="ts">
  import { api, sure, type Named } from "../api";
  import { t } from "../i18n";
  import { session } from "../state/session.svelte";
  import { navigate } from "../../router";

  let text = $state("");
  let found = $state<Named[] | null>(null);
  let at = $state(0);
  let input: HTMLInputElement;
  let pending: ReturnType<typeof setTimeout>;

  export function focus(): void {
    input.focus();
    input.select();
  }

  function look(): void {
    clearTimeout(pending);
    const wanted = text.trim();
    if (!wanted) {
      found = null;
      return;
    }
    pending = setTimeout(async () => {
      try {
        const answer = await sure(api.GET("/api/entries/lookup", { params: { query: { text: wanted } } }));
        if (wanted === text.trim()) {
          found = answer.items;
          at = 0;
        }
      } catch {
        found = null;
      }
    }, 120);
  }

  function go(one: Named | undefined): void {
    if (!one) return;
    const locale = session.setup?.locales[0]?.tag ?? "en";
    text = "";
    found = null;
    void navigate("/entries/:id/:locale", { params: { id: one.id, locale } });
  }

  function onKey(event: KeyboardEvent): void {
    if (event.key === "Escape") found = null;
    if (!found) return;
    if (event.key === "ArrowDown") at = Math.min(at + 1, found.length - 1);
    else if (event.key === "ArrowUp") at = Math.max(at - 1, 0);
    else if (event.key === "Enter") go(found[at]);
    else return;
    event.preventDefault();
  }
</script>

<div class="relative w-full max-w-sm">
  <input
    bind:this={input}
    bind:value={text}
    oninput={look}
    onkeydown={onKey}
    onblur={() => setTimeout(() => (found = null), 150)}
    class="field"
    type="search"
    role="combobox"
    aria-label={t("find.label")}
    aria-expanded={found !== null}
    aria-controls="finder-list"
    aria-activedescendant={found?.length ? `found-${at}` : undefined}
    placeholder={t("find.hint")}
  />
  <ul
    id="finder-list"
    role="listbox"
    aria-label={t("find.label")}
    class="sheet absolute start-0 top-full z-40 mt-1 w-full shadow-lg {found ? '' : 'hidden'}"
  >
    {#each found ?? [] as one, n (one.id)}
      <li
        id="found-{n}"
        role="option"
        aria-selected={n === at}
        class="cursor-pointer px-3 py-2 {n === at ? 'bg-wash' : ''}"
        onpointerdown={(event) => {
          event.preventDefault();
          go(one);
        }}
      >
        {one.title || t("list.untitled")}
        <span class="text-sm text-moss">{session.type(one.type)?.label}</span>
      </li>
    {:else}
      <li role="option" aria-selected="false" class="px-3 py-2 text-moss">{t("find.none")}</li>
    {/each}
  </ul>
</div>
