<script lang="ts">
  import "../../messages/setup";
  import PersonDialog from "./PersonDialog.svelte";
  import RoleMatrix from "./RoleMatrix.svelte";
  import WhyForm from "./WhyForm.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import type { Person } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { peopleQuery, rolesQuery } from "./queries";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";

  const people = peopleQuery();
  const roles = rolesQuery();
  const may = $derived(session.may("configure"));
  let dialog = $state<PersonDialog>();

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
  {#if may}<Button look="main" onclick={() => dialog?.invite()}>{t("people.invite")}</Button>{/if}
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
            {#if person.connected}<span class="text-sm font-normal text-moss">{t("people.connected")}</span
              >{/if}
          </p>
          <p class="text-sm text-moss">{said(person) || t("people.noRole")}</p>
        </div>
        {#if may}<Button
            aria-label={t("people.edit", { name: person.name })}
            onclick={() => dialog?.edit(person)}>{t("people.change")}</Button
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
<WhyForm />
<PersonDialog bind:this={dialog} />
