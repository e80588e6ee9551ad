<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { rolesQuery } from "./queries";
  import EntryPicker from "../content/fields/EntryPicker.svelte";
  import { api, sure, type Person } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import ZoneField from "../../ui/ZoneField.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  /** Somebody's roles, with the languages and sections that each is held for; or the invitation of somebody new. */
  interface Held {
    name: string;
    locales: string[];
    sections: string[];
  }
  const roles = rolesQuery();
  const queries = useQueryClient();
  let editing = $state<Person | null>(null);
  let open = $state(false);
  let held = $state<Held[]>([]);
  let names = $state<Record<string, string>>({});
  let inviting = $state(false);
  let handle = $state("");
  let name = $state("");
  let email = $state("");
  let zone = $state(session.me?.zone ?? "UTC");
  let address = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);

  /** Change what somebody holds. */
  export function edit(person: Person): void {
    editing = person;
    held = person.roles.map((one) => ({
      name: one.name,
      locales: [...(one.locales ?? [])],
      sections: [...(one.sections ?? [])],
    }));
    for (const section of held.flatMap((one) => one.sections)) {
      void sure(api.GET("/api/entries/{id}", { params: { path: { id: section } } }))
        .then((found) => (names[section] = found.title))
        .catch(() => undefined);
    }
    inviting = false;
    error = null;
    address = "";
    open = true;
  }

  /** Invite somebody. */
  export function invite(): void {
    editing = null;
    held = [{ name: "staff", locales: [], sections: [] }];
    handle = name = email = address = "";
    inviting = true;
    error = null;
    open = true;
  }

  async function does(what: () => Promise<void>): Promise<void> {
    busy = true;
    error = null;
    try {
      await what();
      await queries.invalidateQueries();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const given = $state.snapshot(held);
    await does(async () => {
      if (inviting) {
        const body = { handle, name, email, zone, roles: given };
        address = (await sure(api.POST("/api/people", { body }))).address;
      } else {
        const params = { path: { handle: editing!.handle } };
        await sure(api.PUT("/api/people/{handle}/roles", { params, body: { roles: given } }));
        toasts.say(t("people.kept", { name: editing!.name }));
        open = false;
      }
    });
  }

  const again = () =>
    does(async () => {
      const params = { path: { handle: editing!.handle } };
      address = (await sure(api.POST("/api/people/{handle}/invitation", { params }))).address;
    });
  const lost = () =>
    does(async () => {
      const params = { path: { handle: editing!.handle } };
      await sure(api.DELETE("/api/people/{handle}/second-factor", { params }));
      toasts.say(t("people.factorEnded", { name: editing!.name }));
      open = false;
    });
  async function disconnect(): Promise<void> {
    if (!confirm(t("people.disconnectSure", { name: editing!.name }))) return;
    await does(async () => {
      const params = { path: { handle: editing!.handle } };
      await sure(api.DELETE("/api/people/{handle}/provider", { params }));
      toasts.say(t("people.disconnected", { name: editing!.name }));
      open = false;
    });
  }
  /** Whose account is to be ended: what they have to do is looked at first. */
  let leaving = $state<Person | null>(null);
  function end(): void {
    leaving = editing;
    open = false;
  }
</script>

<FormDialog
  bind:open
  title={inviting ? t("people.invite") : (editing?.name ?? "")}
  size="md"
  go={address ? "" : t(inviting ? "people.send" : "people.keep")}
  back={t(address ? "nav.close" : "start.cancel")}
  {busy}
  {error}
  onsubmit={keep}
>
  {#if address}
    <div class="border-s-4 border-s-straw ps-3" role="status">
      <p class="font-semibold">{t("people.invited")}</p>
      <code class="break-all select-all">{address}</code>
    </div>
  {/if}
  {#if inviting}
    <div class="grid gap-3 sm:grid-cols-2">
      <label class="flex flex-col gap-1 text-sm">{t("people.name")}<Input required bind:value={name} /></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >{t("people.handle")}<Input required pattern="[\w.\-]+" bind:value={handle} /></label
      >
      <label class="flex flex-col gap-1 text-sm"
        >{t("people.email")}<Input type="email" required bind:value={email} /></label
      >
      <div class="text-sm"><ZoneField label={t("account.zone")} bind:value={zone} /></div>
    </div>
  {/if}
  <fieldset class="flex flex-col gap-2">
    <legend class="font-semibold">{t("people.holds")}</legend>
    {#each held as one, n (n)}
      <div class="sheet flex flex-col gap-2 p-2">
        <div class="flex flex-wrap items-end gap-2">
          <label class="flex min-w-40 flex-1 flex-col text-sm"
            >{t("people.role")}
            <Select bind:value={one.name}>
              {#each roles.data?.items ?? [] as role (role.name)}<option value={role.name}
                  >{role.label}</option
                >{/each}
            </Select></label
          >
          <Button
            icon={CloseOutline}
            label={t("people.dropRole", { number: n + 1 })}
            onclick={() => held.splice(n, 1)}
          />
        </div>
        <div class="flex flex-wrap gap-x-3 text-sm" role="group" aria-label={t("people.locales")}>
          <span class="text-moss">{t("people.locales")}</span>
          {#each session.setup?.locales ?? [] as tag (tag.tag)}
            <label class="flex items-center gap-1.5"
              ><Checkbox
                checked={one.locales.includes(tag.tag)}
                onchange={() => (one.locales = toggled(one.locales, tag.tag))}
              />{tag.name}</label
            >
          {/each}
        </div>
        <div class="flex flex-wrap items-center gap-2 text-sm">
          {#each one.sections as section (section)}
            <span class="rounded bg-wash px-2 py-0.5"
              >{names[section] ?? section}
              <Button
                icon={CloseOutline}
                look="quiet"
                label={t("people.dropSection", { name: names[section] ?? section })}
                onclick={() => (one.sections = toggled(one.sections, section))}
              /></span
            >
          {/each}
          <div class="min-w-48 flex-1">
            <EntryPicker
              label={t("people.section")}
              onChoose={(chosen) => {
                names[chosen.id] = chosen.title;
                one.sections = [...one.sections, chosen.id];
              }}
            />
          </div>
        </div>
      </div>
    {/each}
    <Button class="self-start" onclick={() => held.push({ name: "staff", locales: [], sections: [] })}
      >{t("people.addRole")}</Button
    >
  </fieldset>
  {#snippet more()}
    {#if editing && editing.kind === "person"}
      <Button disabled={busy} onclick={again}>{t("people.again")}</Button>
      {#if editing.second_factor}<Button disabled={busy} onclick={lost}>{t("people.lost")}</Button>{/if}
      {#if editing.connected}<Button disabled={busy} onclick={disconnect}>{t("people.disconnect")}</Button
        >{/if}
      <Button disabled={busy} onclick={end}>{t("people.end")}</Button>
    {/if}
  {/snippet}
</FormDialog>
{#if leaving}
  {#await import("./EndPersonDialog.svelte") then part}
    <part.default person={leaving} onClose={() => (leaving = null)} />
  {/await}
{/if}
