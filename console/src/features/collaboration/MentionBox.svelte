<script lang="ts">
  import { t } from "../../lib/i18n";
  import { within } from "../../lib/words";
  import { peopleQuery } from "../access/queries";
  import Textarea from "../../ui/Textarea.svelte";

  /** Words in which `@` names a colleague. */
  interface Props {
    value: string;
    label: string;
    rows?: number;
    id: string;
  }
  let { value = $bindable(""), label, rows = 2, id }: Props = $props();
  const people = peopleQuery();
  let box = $state<HTMLTextAreaElement>();
  let started = $state<string | null>(null);
  let at = $state(0);
  const fitting = $derived(
    started === null
      ? []
      : (people.data?.items ?? [])
          .filter((one) => one.kind === "person" && within(`${one.handle} ${one.name}`, started!))
          .slice(0, 6),
  );

  function look(): void {
    const before = value.slice(0, box?.selectionStart ?? value.length);
    started = /(?:^|\s)@([\w.-]*)$/.exec(before)?.[1] ?? null;
    at = 0;
  }

  function choose(handle: string): void {
    const cursor = box?.selectionStart ?? value.length;
    const before = value.slice(0, cursor).replace(/@[\w.-]*$/, `@${handle} `);
    value = before + value.slice(cursor);
    started = null;
    box?.focus();
    queueMicrotask(() => box?.setSelectionRange(before.length, before.length));
  }

  function onKey(event: KeyboardEvent): void {
    if (!fitting.length) return;
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      at = (at + (event.key === "ArrowDown" ? 1 : fitting.length - 1)) % fitting.length;
    } else if (event.key === "Enter" || event.key === "Tab") choose(fitting[at]!.handle);
    else if (event.key === "Escape") started = null;
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<label class="flex flex-col gap-1 text-sm" for={id}>{label}</label>
<div class="relative">
  <Textarea
    {id}
    {rows}
    bind:value
    bind:element={box}
    oninput={look}
    onkeydown={onKey}
    onblur={() => setTimeout(() => (started = null), 150)}
    aria-autocomplete="list"
    aria-controls="{id}-people"
    aria-activedescendant={fitting.length ? `${id}-person-${at}` : undefined}
  />
  <ul
    id="{id}-people"
    role="listbox"
    aria-label={t("comments.people")}
    class="sheet absolute start-0 z-30 w-64 p-1 shadow-lg {fitting.length ? '' : 'hidden'}"
  >
    {#each fitting as one, n (one.handle)}
      <li
        id="{id}-person-{n}"
        role="option"
        aria-selected={n === at}
        class="cursor-pointer rounded px-2 py-1 {n === at ? 'bg-wash font-semibold' : ''}"
        onmousedown={(event) => {
          event.preventDefault();
          choose(one.handle);
        }}
      >
        {one.name} <span class="text-sm text-moss">@{one.handle}</span>
      </li>
    {/each}
  </ul>
</div>
