<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { made } from "../../lib/passkeys";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { passkeysQuery } from "./queries";

  let { onspare }: { onspare: (codes: string[]) => void } = $props();

  const passkeys = passkeysQuery();
  const queries = useQueryClient();
  let password = $state("");
  let name = $state("");
  let wrong = $state<unknown>(null);
  let busy = $state(false);
  let renaming = $state("");
  let called = $state("");

  async function change(does: () => Promise<void>): Promise<void> {
    busy = true;
    wrong = null;
    try {
      await does();
      await queries.invalidateQueries();
    } catch (error) {
      wrong = error;
    } finally {
      busy = false;
    }
  }

  const add = (event: SubmitEvent) => {
    event.preventDefault();
    return change(async () => {
      const asked = await sure(api.POST("/api/account/passkeys/begin", { body: { password } }));
      const answer = await made(asked.options);
      const body = { state: asked.state, answer, name };
      onspare((await sure(api.POST("/api/account/passkeys", { body }))).codes);
      password = name = "";
      toasts.say(t("account.passkeyAdded"));
    });
  };

  const remove = (id: string) =>
    change(async () => {
      const params = { path: { id } };
      await sure(api.POST("/api/account/passkeys/{id}/end", { params, body: { password } }));
      password = "";
      toasts.say(t("account.passkeyRemoved"));
    });

  const rename = (event: SubmitEvent) => {
    event.preventDefault();
    return change(async () => {
      const params = { path: { id: renaming } };
      await sure(api.PUT("/api/account/passkeys/{id}", { params, body: { name: called } }));
      renaming = "";
    });
  };
</script>

<section class="sheet flex flex-col gap-3 p-4" aria-labelledby="passkeys">
  <h2 id="passkeys" class="text-lg font-semibold">{t("account.passkeys")}</h2>
  <p>{t("account.passkeysAbout")}</p>
  {#if passkeys.data?.items.length}
    <ul class="flex flex-col gap-2">
      {#each passkeys.data.items as one (one.id)}
        <li class="flex flex-wrap items-center gap-2 border-b pb-2">
          {#if renaming === one.id}
            <form class="flex flex-1 flex-wrap items-end gap-2" onsubmit={rename}>
              <label class="flex min-w-0 flex-1 basis-40 flex-col gap-1 text-sm"
                >{t("account.passkeyName")}<Input bind:value={called} maxlength={80} required /></label
              >
              <Button type="submit" disabled={busy}>{t("account.passkeyKeep")}</Button>
              <Button onclick={() => (renaming = "")}>{t("account.passkeyCancel")}</Button>
            </form>
          {:else}
            <div class="min-w-0 flex-1 basis-48">
              <p class="font-semibold">{one.name}</p>
              <p class="text-sm text-moss">
                {one.used_at
                  ? t("account.passkeyUsed", { since: when(one.since), used: when(one.used_at) })
                  : t("account.passkeyUnused", { since: when(one.since) })}
              </p>
            </div>
            <Button
              disabled={busy}
              onclick={() => {
                renaming = one.id;
                called = one.name;
              }}
              aria-label={t("account.passkeyRename", { name: one.name })}
              >{t("account.passkeyRenameShort")}</Button
            >
            <Button
              disabled={busy || !password}
              title={password ? undefined : t("account.passkeyPassword")}
              onclick={() => remove(one.id)}
              aria-label={t("account.passkeyRemove", { name: one.name })}
              >{t("account.passkeyRemoveShort")}</Button
            >
          {/if}
        </li>
      {/each}
    </ul>
  {/if}
  <form class="flex flex-col gap-3" onsubmit={add}>
    <label class="flex flex-col gap-1 text-sm"
      >{t("account.passkeyProof")}<Input
        type="password"
        autocomplete="current-password"
        bind:value={password}
        required
      /></label
    >
    <label class="flex flex-col gap-1 text-sm"
      >{t("account.passkeyName")}<Input
        bind:value={name}
        maxlength={80}
        placeholder={t("account.passkeyExample")}
        required
      /></label
    >
    {#if wrong}<Trouble error={wrong} />{/if}
    <Button type="submit" class="self-start" disabled={busy}>{t("account.passkeyAdd")}</Button>
  </form>
</section>
