<script lang="ts">
  import "../../messages/setup";
  import { api, Problem, sure, type Bureau } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import BureauRates from "./BureauRates.svelte";

  /** Adds a bureau, or changes one. It is asked what it offers before anything is kept, unless whoever sets it up goes on without. */
  let {
    changing,
    onKept,
    onBack,
  }: { changing: Bureau | null; onKept: (made: Bureau, secret: string) => void; onBack: () => void } =
    $props();
  const FREE: Bureau["rates"] = { currency: "", word: "0", locales: {}, shares: {} };
  const locales = $derived(session.setup?.locales ?? []);
  // The form is made anew for each bureau.
  /* svelte-ignore state_referenced_locally */
  const was = changing;
  let name = $state(was?.name ?? "");
  let kind = $state(was?.kind ?? "http");
  let url = $state(was?.url ?? "");
  let key = $state("");
  let noKey = $state(false);
  let codes = $state<Record<string, string>>({ ...was?.codes });
  let rates = $state.raw(was?.rates ?? FREE);
  let error = $state<unknown>(null);
  let busy = $state(false);
  const unanswered = $derived(error instanceof Problem && error.facts.code === "bureaus.does_not_answer");

  async function keep(untested: boolean): Promise<void> {
    error = null;
    busy = true;
    const given = Object.fromEntries(Object.entries(codes).filter(([, code]) => code.trim()));
    const fields = { name, url, codes: given, rates, untested };
    try {
      if (was) {
        const body = {
          ...fields,
          url: url === was.url ? undefined : url,
          ...(key || noKey ? { key: noKey ? "" : key } : {}),
        };
        onKept(await sure(api.PATCH("/api/bureaus/{id}", { params: { path: { id: was.id } }, body })), "");
      } else {
        const made = await sure(api.POST("/api/bureaus", { body: { ...fields, kind, key, secret: "" } }));
        onKept(made.bureau, made.secret);
      }
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<form
  class="sheet flex flex-col gap-3 p-4"
  onsubmit={(event) => {
    event.preventDefault();
    void keep(false);
  }}
>
  <h2 class="text-lg font-semibold">
    {was ? t("bureausPage.changing", { name: was.name }) : t("bureausPage.new")}
  </h2>
  <label class="flex flex-col gap-1 text-sm"
    >{t("bureausPage.name")}<Input required bind:value={name} /></label
  >
  {#if !was}
    <label class="flex flex-col gap-1 text-sm"
      >{t("bureausPage.kind")}<Select bind:value={kind}>
        <option value="http">{t("bureausPage.kindHttp")}</option>
        <option value="folder">{t("bureausPage.kindFolder")}</option>
      </Select></label
    >
  {/if}
  <label class="flex flex-col gap-1 text-sm"
    >{kind === "folder" ? t("bureausPage.folder") : t("bureausPage.url")}<Input
      type={kind === "folder" ? "text" : "url"}
      required
      dir="ltr"
      placeholder={kind === "folder" ? "" : t("bureausPage.urlExample")}
      bind:value={url}
    />{#if kind === "folder"}<span class="text-moss">{t("bureausPage.folderAbout")}</span>{/if}</label
  >
  {#if kind !== "folder"}
    <label class="flex flex-col gap-1 text-sm"
      >{t("bureausPage.key")}<Input type="password" autocomplete="off" disabled={noKey} bind:value={key} />
      <span class="text-moss">{was?.has_key ? t("bureausPage.keyKept") : t("bureausPage.keyAbout")}</span
      ></label
    >
    {#if was?.has_key}
      <label class="flex items-center gap-2 text-sm"
        ><Checkbox bind:checked={noKey} />{t("bureausPage.noKey")}</label
      >
    {/if}
  {/if}
  <fieldset class="grid grid-cols-2 gap-2 text-sm">
    <legend class="pb-1">{t("bureausPage.codes")}</legend>
    {#each locales as locale (locale.tag)}
      <label class="flex items-center gap-2"
        ><span class="w-10">{locale.tag}</span><Input
          class="min-w-0 flex-1"
          placeholder={locale.tag}
          maxlength={35}
          dir="ltr"
          bind:value={codes[locale.tag]}
        /></label
      >
    {/each}
  </fieldset>
  <BureauRates bind:rates />
  {#if error}<Trouble {error} />{/if}
  <div class="flex flex-wrap gap-2">
    <Button look="main" type="submit" disabled={busy || !name.trim() || !url.trim()}
      >{busy ? t("bureausPage.trying") : was ? t("bureausPage.keep") : t("bureausPage.add")}</Button
    >
    {#if unanswered}<Button disabled={busy} onclick={() => keep(true)}
        >{was ? t("bureausPage.keepUntested") : t("bureausPage.addUntested")}</Button
      >{/if}
    {#if was}<Button onclick={onBack}>{t("bureausPage.back")}</Button>{/if}
  </div>
</form>
