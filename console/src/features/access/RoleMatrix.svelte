<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import Trouble from "../../ui/Trouble.svelte";
  import { api, sure, type GrantSpec, type RoleSpec } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { stageNames } from "../../lib/names";
  import { session } from "../../lib/state/session.svelte";
  import { named } from "../../lib/types";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Table from "../../ui/Table.svelte";
  import { toggled } from "../../lib/lists";
  import FormDialog from "../../ui/FormDialog.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  /** Roles against verbs: a cell grants or not, or only within certain types, locales and stages. */
  interface Props {
    roles: RoleSpec[];
    verbs: { verb: string; label: string }[];
    may: boolean;
  }
  let { roles, verbs, may }: Props = $props();
  const queries = useQueryClient();
  let open = $state(false);
  let role = $state<RoleSpec | null>(null);
  let verb = $state("");
  let grants = $state<GrantSpec[]>([]);
  let fresh = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);
  const stages = $derived([...stageNames()]);

  function of(one: RoleSpec, name: string): GrantSpec[] {
    return one.grants.filter((grant) => grant.verb === name);
  }

  function whole(grant: GrantSpec): boolean {
    return !grant.own && ![grant.types, grant.locales, grant.sections, grant.stages].some((s) => s?.length);
  }

  function mark(one: RoleSpec, name: string): { sign: string; text: string } {
    const mine = of(one, name);
    if (!mine.length) return { sign: "–", text: t("matrix.none") };
    if (mine.some(whole)) return { sign: "●", text: t("matrix.all") };
    return { sign: "◐", text: t("matrix.some") };
  }

  async function put(changed: RoleSpec[], said: string): Promise<boolean> {
    busy = true;
    error = null;
    try {
      await sure(api.PUT("/api/roles", { body: { items: changed } }));
      await session.look();
      await queries.invalidateQueries();
      toasts.say(said);
      return true;
    } catch (caught) {
      error = caught;
      return false;
    } finally {
      busy = false;
    }
  }

  function edit(one: RoleSpec, name: string): void {
    role = one;
    verb = name;
    grants = structuredClone($state.snapshot(of(one, name))) as GrantSpec[];
    error = null;
    open = true;
  }

  async function keep(): Promise<void> {
    const others = role!.grants.filter((grant) => grant.verb !== verb);
    const changed = { ...role!, grants: [...others, ...($state.snapshot(grants) as GrantSpec[])] };
    if (await put([changed], t("matrix.kept", { role: role!.label }))) open = false;
  }

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const made = {
      name: named(
        fresh,
        roles.map((one) => one.name),
      ).replaceAll("_", "-"),
      label: fresh,
    };
    if (
      await put(
        [{ ...made, grants: [{ verb: "read" }], people: 0 } as RoleSpec],
        t("matrix.made", { role: fresh }),
      )
    )
      fresh = "";
  }

  async function end(one: RoleSpec): Promise<void> {
    try {
      await sure(api.DELETE("/api/roles/{name}", { params: { path: { name: one.name } } }));
      await queries.invalidateQueries();
    } catch (caught) {
      toasts.wrong(caught);
    }
  }
</script>

<div class="overflow-x-auto" role="region" aria-label={t("matrix.table")}>
  <Table class="w-full border-collapse text-sm">
    <thead>
      <tr>
        <th scope="col" class="border-b px-2 py-1 text-start">{t("people.role")}</th>
        {#each verbs as one (one.verb)}<th
            scope="col"
            class="border-b px-2 py-1 text-center align-bottom font-semibold"
            title={one.label}>{t(`matrix.verb_${one.verb}`)}</th
          >{/each}
        <th scope="col" class="border-b px-2 py-1 text-end">{t("matrix.held")}</th>
        {#if may}<td class="border-b"></td>{/if}
      </tr>
    </thead>
    <tbody>
      {#each roles as one (one.name)}
        <tr>
          <th scope="row" class="border-b px-2 py-1 text-start font-semibold">{one.label}</th>
          {#each verbs as v (v.verb)}
            {@const found = mark(one, v.verb)}
            <td class="border-b px-1 py-0.5 text-center">
              {#if may}<Button
                  look="quiet"
                  aria-label={t("matrix.cell", { role: one.label, verb: v.label, state: found.text })}
                  onclick={() => edit(one, v.verb)}>{found.sign}</Button
                >{:else}<span aria-hidden="true">{found.sign}</span><span class="sr-only">{found.text}</span
                >{/if}
            </td>
          {/each}
          <td class="border-b px-2 py-1 text-end">{one.people}</td>
          {#if may}<td class="border-b px-1 text-end"
              >{#if !one.people}<Button
                  icon={CloseOutline}
                  look="quiet"
                  label={t("matrix.end", { role: one.label })}
                  onclick={() => end(one)}
                />{/if}</td
            >{/if}
        </tr>
      {/each}
    </tbody>
  </Table>
</div>
<p class="pt-2 text-sm text-moss">{t("matrix.legend")}</p>
{#if error && !open}<Trouble {error} />{/if}
{#if may}
  <form class="flex flex-wrap items-end gap-2 pt-3" onsubmit={add}>
    <label class="flex flex-col text-sm">{t("matrix.new")}<Input bind:value={fresh} /></label>
    <Button type="submit" disabled={busy || !fresh.trim()}>{t("matrix.add")}</Button>
  </form>
{/if}

<FormDialog
  bind:open
  title={t("matrix.title", { role: role?.label, verb: t(`matrix.verb_${verb}`) })}
  size="md"
  go={t("matrix.keep")}
  {busy}
  {error}
  onsubmit={keep}
>
  <p class="text-sm text-moss">{t("matrix.about")}</p>
  {#each grants as grant, n (n)}
    <div class="sheet flex flex-col gap-2 p-3 text-sm">
      {#snippet side(label: string, key: "types" | "locales" | "stages", values: [string, string][])}
        <fieldset class="flex flex-wrap gap-x-3 gap-y-1">
          <legend class="font-semibold">{label}</legend>
          {#each values as [value, said] (value)}
            <label class="flex items-center gap-1.5"
              ><Checkbox
                checked={grant[key]?.includes(value)}
                onchange={() => (grant[key] = toggled(grant[key], value))}
              />{said}</label
            >
          {/each}
        </fieldset>
      {/snippet}
      {@render side(
        t("matrix.types"),
        "types",
        (session.setup?.types ?? []).map((one) => [one.name, one.label]),
      )}
      {@render side(
        t("matrix.locales"),
        "locales",
        (session.setup?.locales ?? []).map((one) => [one.tag, one.name]),
      )}
      {@render side(t("matrix.stages"), "stages", stages)}
      <label class="flex items-center gap-2"><Checkbox bind:checked={grant.own} />{t("matrix.own")}</label>
      {#if grant.sections?.length}<p class="text-moss">{t("people.someSections")}</p>{/if}
      <Button class="self-start" onclick={() => grants.splice(n, 1)}>{t("matrix.drop")}</Button>
    </div>
  {:else}<p>{t("matrix.none")}</p>{/each}
  <Button
    class="self-start"
    onclick={() =>
      grants.push({
        verb: verb as GrantSpec["verb"],
        types: [],
        locales: [],
        sections: [],
        stages: [],
        own: false,
      })}>{t("matrix.grant")}</Button
  >
</FormDialog>
