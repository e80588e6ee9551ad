<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** Whether there is one, and the spare codes of one that was just turned on, which are shown this once. */
  let { on, spare = $bindable() }: { on: boolean; spare: string[] } = $props();

  const queries = useQueryClient();
  let factorWrong = $state<unknown>(null);
  let begun = $state<{ secret: string; picture: string } | null>(null);
  let code = $state("");
  let password = $state("");

  async function factor(does: () => Promise<void>): Promise<void> {
    factorWrong = null;
    try {
      await does();
      await queries.invalidateQueries();
    } catch (error) {
      factorWrong = error;
    }
  }

  const begin = () =>
    factor(async () => {
      begun = await sure(api.POST("/api/account/second-factor", { body: { password } }));
      password = "";
    });
  const confirm = () =>
    factor(async () => {
      spare = (await sure(api.POST("/api/account/second-factor/confirm", { body: { code } }))).codes;
      begun = null;
      code = "";
    });
  const end = () =>
    factor(async () => {
      await sure(api.POST("/api/account/second-factor/end", { body: { password } }));
      password = "";
      spare = [];
    });
</script>

{#snippet confirming()}
  <label class="flex flex-col gap-1 text-sm"
    >{t("login.password")}<Input
      type="password"
      autocomplete="current-password"
      bind:value={password}
    /></label
  >
{/snippet}

<section class="sheet flex flex-col gap-3 p-4" aria-labelledby="factor">
  <h2 id="factor" class="text-lg font-semibold">{t("account.factor")}</h2>
  <p>{t(on ? "account.factorOn" : "account.factorOff")}</p>
  {#if spare.length}
    <div role="status">
      <p class="font-semibold">{t("account.spare")}</p>
      <ul class="grid grid-cols-2 gap-1 font-mono">
        {#each spare as one (one)}<li>{one}</li>{/each}
      </ul>
    </div>
  {/if}
  {#if on}
    {@render confirming()}
    <Button class="self-start" disabled={!password} onclick={end}>{t("account.factorEnd")}</Button>
  {:else if begun}
    <p>{t("account.scan")}</p>
    <img
      class="w-48 bg-white"
      src="data:image/svg+xml;utf8,{encodeURIComponent(begun.picture)}"
      alt={t("account.qr")}
    />
    <p class="text-sm">{t("account.secret")} <code class="break-all select-all">{begun.secret}</code></p>
    <label class="flex flex-col gap-1 text-sm"
      >{t("login.code")}<Input
        class="w-40!"
        inputmode="numeric"
        autocomplete="one-time-code"
        bind:value={code}
      /></label
    >
    <Button look="main" class="self-start" disabled={!code} onclick={confirm}>{t("account.confirm")}</Button>
  {:else}
    {@render confirming()}
    <Button class="self-start" disabled={!password} onclick={begin}>{t("account.factorBegin")}</Button>
  {/if}
  {#if factorWrong}<Trouble error={factorWrong} />{/if}
</section>
