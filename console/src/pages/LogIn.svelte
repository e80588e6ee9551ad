<script lang="ts">
  import Trouble from "../lib/components/Trouble.svelte";
  import { t } from "../lib/i18n";
  import { session } from "../lib/state/session.svelte";

  let handle = $state("");
  let password = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);

  async function go(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      await session.logIn(handle, password);
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<svelte:head><title>{t("login.title")} – {t("app.name")}</title></svelte:head>
<main class="mx-auto flex min-h-screen max-w-md flex-col justify-center px-5">
  <h1 class="flex items-center gap-3 text-3xl font-semibold">
    <img src="/favicon.svg" alt="" width="40" height="40" />{t("app.name")}
  </h1>
  <p class="mt-2 mb-6 text-moss">{t("login.tagline")}</p>
  <form class="sheet flex flex-col gap-4 p-6" onsubmit={go}>
    <label class="flex flex-col gap-1"
      >{t("login.handle")}<input class="field" bind:value={handle} autocomplete="username" required /></label
    >
    <label class="flex flex-col gap-1"
      >{t("login.password")}<input
        class="field"
        type="password"
        bind:value={password}
        autocomplete="current-password"
        required
      /></label
    >
    {#if error}<Trouble {error} />{/if}
    <button class="act main justify-center" disabled={busy}>{t("login.go")}</button>
  </form>
</main>
