<script lang="ts">
  import Trouble from "../../ui/Trouble.svelte";
  import { api, once, sure, type Entry, type PreviewLink } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { linksQuery } from "../delivery/queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Disclosure from "../../ui/Disclosure.svelte";
  import Modal from "../../ui/Modal.svelte";

  let { entry }: { entry: Entry } = $props();
  let open = $state(false);
  let scope = $state<"entry" | "section" | "strand" | "dispatch">("entry");
  let name = $state("");
  let days = $state(7);
  let busy = $state(false);
  let error = $state<unknown>(null);
  const links = linksQuery(() => entry.id);
  const mayGive = $derived(entry.acts.find((act) => act.act === "save")?.allowed ?? false);
  const heads = $derived(session.type(entry.type)?.section ?? false);
  const beside = $derived(entry.strand !== "draft");
  const inside = $derived(entry.strands.find((one) => one.open && one.name === entry.strand && one.dispatch));

  async function give(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      await sure(
        api.POST("/api/preview-links", {
          params: { header: once() },
          body: {
            scope,
            entry: entry.id,
            stage: "draft",
            at: "",
            strand: scope === "strand" ? entry.strand : "",
            dispatch: scope === "dispatch" ? (inside?.dispatch ?? "") : "",
            lasts: days * 86_400,
            name,
          },
        }),
      );
      name = "";
      await links.refetch();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }

  async function takeBack(link: PreviewLink): Promise<void> {
    try {
      await sure(api.DELETE("/api/preview-links/{id}", { params: { path: { id: link.id } } }));
      await links.refetch();
      toasts.say(t("links.takenBack"));
    } catch (caught) {
      error = caught;
    }
  }

  async function copy(url: string): Promise<void> {
    await navigator.clipboard.writeText(url);
    toasts.say(t("links.copied"));
  }
</script>

<Button onclick={() => (open = true)}>{t("links.open")}</Button>
<Modal bind:open title={t("links.title")} size="md">
  <div class="flex flex-col gap-4 text-ink">
    <p>{t("links.about")}</p>
    {#if mayGive}
      <form class="flex flex-wrap items-end gap-3" onsubmit={give}>
        {#if heads || beside}
          <label class="flex flex-col gap-1"
            >{t("links.scope")}
            <Select bind:value={scope}>
              <option value="entry">{t("links.entry")}</option>
              {#if heads}<option value="section">{t("links.section")}</option>{/if}
              {#if beside}<option value="strand">{t("links.strand", { name: entry.strand })}</option>{/if}
              {#if inside}<option value="dispatch"
                  >{t("links.dispatch", { name: inside.dispatch_name })}</option
                >{/if}
            </Select></label
          >
        {/if}
        <label class="flex min-w-40 flex-1 flex-col gap-1"
          >{t("links.name")}<Input bind:value={name} maxlength={120} /></label
        >
        <label class="flex flex-col gap-1"
          >{t("links.days")}<Input
            class="w-24!"
            type="number"
            min="1"
            max="90"
            bind:value={days}
            required
          /></label
        >
        <Button look="main" type="submit" disabled={busy}>{t("links.give")}</Button>
      </form>
    {/if}
    {#if error}<Trouble {error} />{/if}
    <ul class="flex flex-col gap-3">
      {#each links.data?.items ?? [] as link (link.id)}
        {@const address = link.addresses.find((one) => one.stage !== "release" && !one.missing.length)}
        <li class="sheet flex flex-col gap-2 p-3 {link.over ? 'opacity-70' : ''}">
          <div class="flex flex-wrap items-baseline gap-x-3">
            <span class="font-semibold"
              >{link.name || t(`links.${link.scope}`, { name: link.dispatch_name || link.strand })}</span
            >
            <span class="text-sm text-moss">
              {link.ended_at
                ? t("links.ended")
                : link.over
                  ? t("links.over")
                  : t("links.until", { when: when(link.expires_at) })} · {t("links.by", { name: link.by })}
            </span>
            {#if !link.over && mayGive}
              <Button class="ms-auto" onclick={() => takeBack(link)}>{t("links.takeBack")}</Button>
            {/if}
          </div>
          {#if address}
            <div class="flex items-center gap-2">
              <Input
                class="text-sm"
                readonly
                value={address.url}
                aria-label={t("links.address")}
                onfocus={(event) => event.currentTarget.select()}
              />
              <Button onclick={() => copy(address.url)}>{t("links.copy")}</Button>
            </div>
          {/if}
          <Disclosure title={t("links.uses", { count: link.uses.length })} class="text-sm">
            <ul class="ps-4">
              {#each link.uses as use, n (n)}<li class="break-words">
                  {when(use.at)} · {use.what} <span class="text-moss">{use.agent}</span>
                </li>{/each}
            </ul>
          </Disclosure>
        </li>
      {:else}
        <li class="text-moss">{t("links.none")}</li>
      {/each}
    </ul>
  </div>
</Modal>
