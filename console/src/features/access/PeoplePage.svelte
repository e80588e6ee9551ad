<script lang="ts">
  import "../../messages/setup";
  import PeopleList from "./PeopleList.svelte";
  import PersonDialog from "./PersonDialog.svelte";
  import RoleMatrix from "./RoleMatrix.svelte";
  import WhyForm from "./WhyForm.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { t } from "../../lib/i18n";
  import { peopleQuery, rolesQuery } from "./queries";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";

  const people = peopleQuery();
  const roles = rolesQuery();
  const may = $derived(session.may("configure"));
  let dialog = $state<PersonDialog>();
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
  <PeopleList
    people={people.data.items}
    roles={roles.data?.items ?? []}
    onEdit={may ? (person) => dialog?.edit(person) : undefined}
  />
{/if}
<section class="pt-8" aria-labelledby="roles">
  <h2 id="roles" class="text-lg font-semibold">{t("people.roles")}</h2>
  <p class="max-w-3xl pb-3 text-sm text-moss">{t("people.rolesAbout")}</p>
  {#if roles.data}<RoleMatrix roles={roles.data.items} verbs={roles.data.verbs} {may} />{/if}
</section>
<WhyForm />
<PersonDialog bind:this={dialog} />
