<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import RoleMatrix from "./RoleMatrix.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure, type Person, type Why } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { peopleQuery, rolesQuery } from "./queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import EntryPicker from "../content/fields/EntryPicker.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import ZoneField from "../../ui/ZoneField.svelte";
  import Select from "../../ui/Select.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";
  import { toggled } from "../../lib/lists";

  interface Held {
    name: string;
    locales: string[];
    sections: string[];
  }
  const people = peopleQuery();
  const roles = rolesQuery();
  const queries = useQueryClient();
  const may = $derived(session.may("configure"));
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
  // Why somebody may or may not do something.
  let whose = $state(session.me?.handle ?? "");
  let verb = $state("write");
  let type = $state("");
  let locale = $state("");
  let stage = $state("");
  let entry = $state<{ id: string; title: string } | null>(null);
  let answer = $state.raw<Why | null>(null);
  let whyWrong = $state<unknown>(null);
  const stages = $derived([
    ...new Map((session.setup?.workflows ?? []).flatMap((one) => one.stages).map((s) => [s.name, s.label])),
  ]);

  function edit(person: Person): void {
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

  function invite(): void {
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
  async function end(): Promise<void> {
    if (!confirm(t("people.sure", { name: editing!.name }))) return;
    await does(async () => {
      await sure(api.DELETE("/api/people/{handle}", { params: { path: { handle: editing!.handle } } }));
      open = false;
    });
  }

  async function why(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    whyWrong = null;
    try {
      const query = { person: whose, verb, ...(type && { type }), ...(locale && { locale }) };
      const more = { ...(stage && { stage }), ...(entry && { entry: entry.id }) };
      answer = await sure(api.GET("/api/why", { params: { query: { ...query, ...more } } }));
    } catch (caught) {
      answer = null;
      whyWrong = caught;
    }
  }

  function said(person: Person): string {
    return person.roles
      .map((one) => {
        const within = [...(one.locales ?? []), ...(one.sections?.length ? [t("people.someSections")] : [])];
        return within.length ? `${one.label} (${within.join(", ")})` : one.label;
      })
      .join(", ");
  }
</script>

<svelte:head><title>{t("people.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<div class="flex flex-wrap items-center gap-2 pb-3">
  <h1 class="me-auto text-2xl font-semibold">{t("people.title")}</h1>
  {#if may}<Button look="main" onclick={invite}>{t("people.invite")}</Button>{/if}
</div>
{#if people.error}<Trouble error={people.error} />
{:else if !people.data}<Waiting />
{:else}
  <ul class="grid gap-2 lg:grid-cols-2" aria-label={t("people.list")}>
    {#each people.data.items as person (person.handle)}
      <li class="sheet flex flex-wrap items-center gap-3 px-4 py-2">
        <div class="min-w-0 flex-1 basis-56">
          <p class="font-semibold">
            {person.name} <span class="text-sm font-normal text-moss">@{person.handle}</span>
            {#if person.state}<span class="text-sm text-straw">{t(`people.state_${person.state}`)}</span>{/if}
          </p>
          <p class="text-sm text-moss">{said(person) || t("people.noRole")}</p>
        </div>
        {#if may}<Button aria-label={t("people.edit", { name: person.name })} onclick={() => edit(person)}
            >{t("people.change")}</Button
          >{/if}
      </li>
    {/each}
  </ul>
{/if}
<section class="pt-8" aria-labelledby="roles">
  <h2 id="roles" class="text-lg font-semibold">{t("people.roles")}</h2>
  <p class="max-w-3xl pb-3 text-sm text-moss">{t("people.rolesAbout")}</p>
  {#if roles.data}<RoleMatrix roles={roles.data.items} verbs={roles.data.verbs} {may} />{/if}
</section>
<section class="pt-8" aria-labelledby="why">
  <h2 id="why" class="text-lg font-semibold">{t("people.why")}</h2>
  <form class="flex flex-wrap items-end gap-3 pt-2" onsubmit={why}>
    <label class="flex flex-col text-sm"
      >{t("people.who")}
      <Select bind:value={whose}>
        {#each people.data?.items ?? [] as one (one.handle)}<option value={one.handle}>{one.name}</option
          >{/each}
      </Select></label
    >
    <label class="flex flex-col text-sm"
      >{t("people.may")}
      <Select bind:value={verb}>
        {#each roles.data?.verbs ?? [] as one (one.verb)}<option value={one.verb}>{one.label}</option>{/each}
      </Select></label
    >
    <label class="flex flex-col text-sm"
      >{t("flows.type")}
      <Select bind:value={type}>
        <option value="">{t("flows.any")}</option>
        {#each session.setup?.types ?? [] as one (one.name)}<option value={one.name}>{one.label}</option
          >{/each}
      </Select></label
    >
    <label class="flex flex-col text-sm"
      >{t("flows.locale")}
      <Select bind:value={locale}>
        <option value="">{t("flows.any")}</option>
        {#each session.setup?.locales ?? [] as one (one.tag)}<option value={one.tag}>{one.name}</option
          >{/each}
      </Select></label
    >
    <label class="flex flex-col text-sm"
      >{t("people.stage")}
      <Select bind:value={stage}>
        <option value="">{t("flows.any")}</option>
        {#each stages as [one, label] (one)}<option value={one}>{label}</option>{/each}
      </Select></label
    >
    <div class="min-w-56 text-sm">
      {#if entry}<span class="flex items-center gap-2"
          >{entry.title}<Button onclick={() => (entry = null)}>{t("flows.any")}</Button></span
        >{:else}<EntryPicker
          label={t("people.entry")}
          onChoose={(one) => (entry = { id: one.id, title: one.title })}
        />{/if}
    </div>
    <Button look="main" type="submit">{t("people.ask")}</Button>
  </form>
  <div role="status" class="max-w-3xl pt-3">
    {#if whyWrong}<Trouble error={whyWrong} />{/if}
    {#if answer}
      <p>
        <strong class={answer.allowed ? "text-hedge" : "text-straw"}
          >{t(answer.allowed ? "people.yes" : "people.no")}</strong
        >
        {answer.reason}
      </p>
      {#if answer.who.length}<p class="text-moss">{t("people.these", { who: answer.who.join(", ") })}</p>{/if}
    {/if}
  </div>
</section>

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
      <Button disabled={busy} onclick={end}>{t("people.end")}</Button>
    {/if}
  {/snippet}
</FormDialog>
