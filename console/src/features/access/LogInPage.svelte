<script lang="ts">
  import Trouble from "../../ui/Trouble.svelte";
  import { Problem } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";

  let handle = $state("");
  let password = $state("");
  let code = $state("");
  let wantsCode = $state(false);
  let error = $state<unknown>(null);
  let busy = $state(false);

  async function go(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      await session.logIn(handle, password, code);
    } catch (caught) {
      // A code that was not asked for yet is no error.
      const first = caught instanceof Problem && caught.slug === "code-needed" && !wantsCode;
      wantsCode ||= first;
      error = first ? null : caught;
      if (first) setTimeout(() => document.getElementById("code")?.focus());
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
      >{t("login.handle")}<Input bind:value={handle} autocomplete="username" required /></label
    >
    <label class="flex flex-col gap-1"
      >{t("login.password")}<Input
        type="password"
        bind:value={password}
        autocomplete="current-password"
        required
      /></label
    >
    {#if wantsCode}
      <label class="flex flex-col gap-1"
        >{t("login.code")}<Input
          id="code"
          bind:value={code}
          inputmode="numeric"
          autocomplete="one-time-code"
          required
        /></label
      >
      <p class="text-sm text-moss">{t("login.codeAbout")}</p>
    {/if}
    {#if error}<Trouble {error} />{/if}
    <Button look="main" type="submit" class="justify-center" disabled={busy}>{t("login.go")}</Button>
  </form>
</main>
