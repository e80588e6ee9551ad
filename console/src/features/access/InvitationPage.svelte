<script lang="ts">
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";

  const token = new URLSearchParams(location.search).get("token") ?? "";
  let who = $state<{ handle: string; name: string; by: string } | null>(null);
  let password = $state("");
  let again = $state("");
  let error = $state<unknown>(null);
  let busy = $state(false);
  const differ = $derived(again !== "" && again !== password);

  sure(api.POST("/api/invitation", { body: { token } }))
    .then((found) => (who = found))
    .catch((caught: unknown) => (error = caught));

  async function join(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      await sure(api.POST("/api/invitation/accept", { body: { token, password } }));
      await session.arrive();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<svelte:head><title>{t("invitation.title")} – {t("app.name")}</title></svelte:head>
<main class="mx-auto flex min-h-screen max-w-md flex-col justify-center gap-4 px-5">
  <h1 class="flex items-center gap-3 text-3xl font-semibold">
    <img src="/favicon.svg" alt="" width="40" height="40" />{t("invitation.title")}
  </h1>
  {#if who}
    <p>{t("invitation.about", { name: who.name, by: who.by, handle: who.handle })}</p>
    <form class="sheet flex flex-col gap-4 p-6" onsubmit={join}>
      <Input class="hidden" autocomplete="username" value={who.handle} readonly />
      <label class="flex flex-col gap-1"
        >{t("account.new")}<Input
          type="password"
          autocomplete="new-password"
          minlength={8}
          required
          bind:value={password}
        /></label
      >
      <label class="flex flex-col gap-1"
        >{t("account.again")}<Input
          type="password"
          autocomplete="new-password"
          required
          bind:value={again}
        /></label
      >
      {#if differ}<p class="text-straw" role="status">{t("account.differ")}</p>{/if}
      {#if error}<Trouble {error} />{/if}
      <Button look="main" type="submit" class="justify-center" disabled={busy || differ || !again}
        >{t("invitation.go")}</Button
      >
    </form>
  {:else if error}<Trouble {error} />
  {:else}<Waiting lines={2} />{/if}
</main>
