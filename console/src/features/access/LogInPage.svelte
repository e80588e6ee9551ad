<script lang="ts">
  import Trouble from "../../ui/Trouble.svelte";
  import { api, Problem, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { LANGUAGES, speak, spoken } from "../../lib/language";
  import { known, shown } from "../../lib/passkeys";
  import { session } from "../../lib/state/session.svelte";
  import Alert from "../../ui/Alert.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";

  let handle = $state("");
  let password = $state("");
  let code = $state("");
  let wantsCode = $state(false);
  let hasPasskey = $state(false);
  let error = $state<unknown>(null);
  let busy = $state(false);
  let provider = $state("");

  const back = new URLSearchParams(location.search);
  const returns = location.pathname === "/log-in" && back.has("state");
  const brings = returns && !back.has("error");
  let coming = $state(brings);
  if (brings) {
    session.comeBack(back).catch((caught: unknown) => {
      error = caught;
      coming = false;
    });
  } else if (location.pathname === "/log-in" && session.me) {
    location.replace("/");
  }
  const refusal = returns ? back.get("error_description") || back.get("error") : null;
  // Where it does not answer, there are passwords.
  sure(api.GET("/api/session/provider"))
    .then((found) => (provider = found.name))
    .catch(() => (provider = ""));

  async function leave(): Promise<void> {
    busy = true;
    error = null;
    try {
      await session.leave();
    } catch (caught) {
      error = caught;
      busy = false;
    }
  }

  /** With a passkey: alone, or in place of a code after the password. */
  async function show(): Promise<void> {
    busy = true;
    error = null;
    try {
      const body = wantsCode ? { handle, password } : { handle: "", password: "" };
      const asked = await sure(api.POST("/api/session/passkey/begin", { body }));
      const answer = await shown(asked.options);
      await sure(api.POST("/api/session/passkey", { body: { state: asked.state, answer } }));
      await session.look();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

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
      if (first) hasPasskey = caught.facts.passkey === true;
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
  {#if coming}
    <Waiting />
  {:else}
    <form class="sheet flex flex-col gap-4 p-6" onsubmit={go}>
      {#if refusal && !error}<Alert kind="wrong">{t("login.refusal", { why: refusal.slice(0, 200) })}</Alert
        >{/if}
      {#if provider}
        <Button class="justify-center" disabled={busy} onclick={leave}
          >{t("login.provider", { name: provider })}</Button
        >
        <p class="text-center text-sm text-moss">{t("login.or")}</p>
      {/if}
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
            autocapitalize="none"
            autocomplete="one-time-code"
            required
          /></label
        >
        <p class="text-sm text-moss">{t("login.codeAbout")}</p>
      {/if}
      {#if error}<Trouble {error} />{/if}
      <Button look="main" type="submit" class="justify-center" disabled={busy}>{t("login.go")}</Button>
      {#if known() && (!wantsCode || hasPasskey)}
        <Button class="justify-center" disabled={busy} onclick={show}>{t("login.passkey")}</Button>
      {/if}
    </form>
  {/if}
  <ul
    class="mt-4 flex flex-wrap items-center justify-center gap-x-3 text-sm"
    aria-label={t("login.languages")}
  >
    {#each Object.entries(LANGUAGES) as [tag, name] (tag)}
      <li>
        {#if tag === spoken}<span lang={tag} aria-current="true" class="font-semibold">{name}</span>
        {:else}<Button look="quiet" lang={tag} onclick={() => speak(tag)}>{name}</Button>{/if}
      </li>
    {/each}
  </ul>
</main>
