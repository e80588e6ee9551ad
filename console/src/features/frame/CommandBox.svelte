<script lang="ts">
  import { t } from "../../lib/i18n";
  import { peopleQuery } from "../access/queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Input from "../../ui/Input.svelte";
  import Kbd from "../../ui/Kbd.svelte";
  import Modal from "../../ui/Modal.svelte";
  import { found, known, type Command } from "./commands";

  /** One field that finds and does: entries, people, pages, and acts, also typed ones. */
  let { open = $bindable(false) }: { open: boolean } = $props();
  let text = $state("");
  let at = $state(0);
  let answers = $state.raw<Command[]>([]);
  let asking = $state(false);
  let input = $state<HTMLInputElement>();
  const people = peopleQuery();
  const list = $props.id();
  let pending: ReturnType<typeof setTimeout> | undefined;

  const GROUPS = ["acts", "recent", "entries", "people", "pages"] as const;
  const all = $derived.by(() => {
    const lines = [...answers, ...known(text, people.data?.items ?? [])];
    return GROUPS.flatMap((group) => lines.filter((one) => one.group === group));
  });
  const groups = $derived(
    GROUPS.map((group) => ({ group, lines: all.filter((one) => one.group === group) })).filter(
      (one) => one.lines.length,
    ),
  );

  $effect(() => {
    if (!open) return;
    text = "";
    answers = [];
    at = 0;
    setTimeout(() => input?.focus());
  });

  function look(): void {
    at = 0;
    clearTimeout(pending);
    const wanted = text;
    if (!wanted.trim()) {
      answers = [];
      asking = false;
      return;
    }
    asking = true;
    pending = setTimeout(async () => {
      try {
        const lines = await found(wanted);
        if (wanted === text) answers = lines;
      } catch (error) {
        toasts.wrong(error);
      } finally {
        if (wanted === text) asking = false;
      }
    }, 120);
  }

  function choose(one: Command | undefined): void {
    if (!one) return;
    open = false;
    // The dialog gives the focus back first: what is begun may take it.
    setTimeout(() => void one.go());
  }

  function onKey(event: KeyboardEvent): void {
    const last = all.length - 1;
    if (event.key === "ArrowDown") at = at >= last ? 0 : at + 1;
    else if (event.key === "ArrowUp") at = at <= 0 ? Math.max(last, 0) : at - 1;
    else if (event.key === "Enter" && !asking) choose(all[at]);
    else return;
    event.preventDefault();
    document.getElementById(`${list}-${at}`)?.scrollIntoView({ block: "nearest" });
  }
</script>

<Modal bind:open title={t("commands.title")} size="md">
  <Input
    role="combobox"
    aria-label={t("commands.label")}
    aria-expanded="true"
    aria-controls={list}
    aria-activedescendant={all.length ? `${list}-${at}` : undefined}
    aria-describedby="{list}-help"
    placeholder={t("commands.hint")}
    autocomplete="off"
    class="text-lg"
    bind:element={input}
    bind:value={text}
    oninput={look}
    onkeydown={onKey}
  />
  <div
    id={list}
    role="listbox"
    tabindex={-1}
    aria-label={t("commands.title")}
    aria-busy={asking}
    class="h-[min(24rem,55vh)] overflow-y-auto"
  >
    {#each groups as one (one.group)}
      <div role="group" aria-label={t(`commands.group_${one.group}`)}>
        <p class="px-2 pt-2 text-sm font-semibold text-moss" aria-hidden="true">
          {t(`commands.group_${one.group}`)}
        </p>
        {#each one.lines as line, n (`${one.group}-${n}`)}
          {@const index = all.indexOf(line)}
          <div
            id="{list}-{index}"
            role="option"
            tabindex={-1}
            aria-selected={index === at}
            class="flex min-h-9 cursor-pointer items-center gap-2 rounded px-2 py-1.5 {index === at
              ? 'bg-wash'
              : ''}"
            onpointermove={() => (at = index)}
            onpointerdown={(event) => {
              event.preventDefault();
              choose(line);
            }}
          >
            <line.icon class="size-5 shrink-0 text-moss" />
            <span class="min-w-0">{line.label}</span>
            <span class="ms-auto min-w-0 truncate ps-2 text-sm text-moss">{line.hint}</span>
          </div>
        {/each}
      </div>
    {:else}
      <p class="px-2 py-3 text-moss">{t(asking ? "app.loading" : "commands.none")}</p>
    {/each}
  </div>
  <p id="{list}-help" class="border-t pt-2 text-sm text-moss">
    <Kbd>↑</Kbd>
    <Kbd>↓</Kbd>
    <Kbd>Enter</Kbd> · {t("commands.help")}
  </p>
</Modal>
