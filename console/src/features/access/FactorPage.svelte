<script lang="ts">
  import "../../messages/setup";
  import { t } from "../../lib/i18n";
  import { logOut } from "../../lib/state/leaving";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Passkeys from "./Passkeys.svelte";
  import SecondFactor from "./SecondFactor.svelte";

  let spare = $state<string[]>([]);
</script>

<svelte:head><title>{t("account.factorWanted")} – {t("app.name")}</title></svelte:head>
<main class="mx-auto flex min-h-screen max-w-5xl flex-col justify-center gap-4 px-5 py-8">
  <h1 class="flex items-center gap-3 text-3xl font-semibold">
    <img src="/favicon.svg" alt="" width="40" height="40" />{t("account.factorWanted")}
  </h1>
  <p class="max-w-2xl">{t("account.factorWantedAbout", { name: session.me?.name ?? "" })}</p>
  <div class="grid gap-6 lg:grid-cols-2">
    <SecondFactor on={spare.length > 0} bind:spare />
    {#if !spare.length}<Passkeys onspare={(codes) => (spare = codes)} />{/if}
  </div>
  <div class="flex flex-wrap gap-3">
    {#if spare.length}
      <Button look="main" onclick={() => session.look()}>{t("account.factorGoOn")}</Button>
    {/if}
    <Button onclick={logOut}>{t("login.out")}</Button>
  </div>
</main>
