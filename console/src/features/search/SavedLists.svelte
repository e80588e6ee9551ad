<script lang="ts">
  import { tick } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, once, sure, type SavedList } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { listsQuery } from "./queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  interface Props {
    asked: () => Record<string, unknown>;
    onOpen: (query: Record<string, unknown>) => void;
  }
  let { asked, onOpen }: Props = $props();
  const lists = listsQuery();
  const queries = useQueryClient();
  let keeping = $state(false);
  let name = $state("");
  let shared = $state(false);
  let field = $state<HTMLInputElement>();
  const now = $derived(JSON.stringify(asked(), Object.keys(asked()).sort()));

  function same(query: Record<string, unknown>): boolean {
    return JSON.stringify(query, Object.keys(query).sort()) === now;
  }

  async function begin(): Promise<void> {
    keeping = true;
    await tick();
    field?.focus();
  }

  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    try {
      await sure(
        api.POST("/api/lists", { params: { header: once() }, body: { name, query: asked(), shared } }),
      );
      keeping = false;
      name = "";
      await queries.invalidateQueries({ queryKey: ["lists"] });
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function drop(one: SavedList): Promise<void> {
    try {
      await sure(api.DELETE("/api/lists/{id}", { params: { path: { id: one.id } } }));
      toasts.offer(t("lists.dropped", { name: one.name }), t("lists.undo"), async () => {
        const body = { name: one.name, query: one.query, shared: one.shared };
        await sure(api.POST("/api/lists", { params: { header: once() }, body })).catch((error) =>
          toasts.wrong(error),
        );
        await queries.invalidateQueries({ queryKey: ["lists"] });
      });
      await queries.invalidateQueries({ queryKey: ["lists"] });
    } catch (error) {
      toasts.wrong(error);
    }
  }
</script>

<nav class="mt-3 flex flex-wrap items-center gap-2 text-sm" aria-label={t("lists.label")}>
  {#each lists.data?.items ?? [] as one (one.id)}
    <span class="flex items-center rounded border {same(one.query) ? 'border-hedge bg-wash' : ''}">
      <Button
        look="quiet"
        class="px-2 py-1 {same(one.query) ? 'font-semibold' : ''}"
        aria-pressed={same(one.query)}
        title={one.shared ? t("lists.sharedBy", { by: one.by }) : t("lists.own")}
        onclick={() => onOpen(one.query)}>{one.name}</Button
      >
      {#if one.own}<Button
          icon={CloseOutline}
          look="quiet"
          class="py-1 text-moss"
          label={t("lists.drop", { name: one.name })}
          onclick={() => drop(one)}
        />{/if}
    </span>
  {/each}
  {#if keeping}
    <form class="flex flex-wrap items-center gap-2" onsubmit={keep}>
      <Input
        class="w-48!"
        bind:element={field}
        bind:value={name}
        aria-label={t("lists.name")}
        placeholder={t("lists.name")}
        maxlength={80}
        required
      />
      <label class="flex items-center gap-1"><Checkbox bind:checked={shared} />{t("lists.share")}</label>
      <Button type="submit">{t("lists.go")}</Button>
      <Button onclick={() => (keeping = false)}>{t("start.cancel")}</Button>
    </form>
  {:else if Object.keys(asked()).length && !(lists.data?.items ?? []).some((one) => same(one.query))}
    <Button look="quiet" class="px-2 py-1 text-hedge" onclick={begin}>{t("lists.keep")}</Button>
  {/if}
</nav>
