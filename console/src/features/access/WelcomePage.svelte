<script lang="ts">
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { ownName } from "../../lib/languages";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Radio from "../../ui/Radio.svelte";

  const token = new URLSearchParams(location.search).get("token") ?? "";
  const spoken = navigator.language.split("-")[0] || "en";
  let types = $state<{ id: string; title: string }[] | null>(null);
  let person = $state({ name: "", handle: "", email: "", password: "" });
  let first = $state(spoken);
  let others = $state("");
  let type = $state("page");
  let error = $state<unknown>(null);
  let busy = $state(false);
  const more = $derived(
    others
      .split(/[\s,]+/)
      .filter((tag) => tag && tag !== first)
      .filter((tag, n, all) => all.indexOf(tag) === n),
  );

  sure(api.POST("/api/first-run", { body: { token } }))
    .then((found) => (types = found.types))
    .catch((caught: unknown) => (error = caught));

  async function begin(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    error = null;
    try {
      await sure(
        api.POST("/api/first-run/take", {
          body: {
            token,
            ...$state.snapshot(person),
            zone: Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC",
            locales: [first, ...more].map((tag) => ({ tag, name: ownName(tag), direction: "" as const })),
            type,
          },
        }),
      );
      await session.arrive();
    } catch (caught) {
      error = caught;
    } finally {
      busy = false;
    }
  }
</script>

<svelte:head><title>{t("welcome.title")} – {t("app.name")}</title></svelte:head>
<main class="mx-auto flex min-h-screen max-w-xl flex-col justify-center gap-4 px-5 py-8">
  <h1 class="flex items-center gap-3 text-3xl font-semibold">
    <img src="/favicon.svg" alt="" width="40" height="40" />{t("welcome.title")}
  </h1>
  {#if types}
    <p>{t("welcome.about")}</p>
    <form class="sheet flex flex-col gap-4 p-6" onsubmit={begin}>
      <fieldset class="grid gap-3 sm:grid-cols-2">
        <legend class="pb-1 font-semibold">{t("welcome.you")}</legend>
        <label class="flex flex-col gap-1"
          >{t("welcome.name")}<Input autocomplete="name" required bind:value={person.name} /></label
        >
        <label class="flex flex-col gap-1"
          >{t("welcome.handle")}<Input
            autocomplete="username"
            required
            minlength={2}
            bind:value={person.handle}
          /></label
        >
        <label class="flex flex-col gap-1"
          >{t("welcome.email")}<Input type="email" autocomplete="email" bind:value={person.email} /></label
        >
        <label class="flex flex-col gap-1"
          >{t("welcome.password")}<Input
            type="password"
            autocomplete="new-password"
            minlength={8}
            required
            bind:value={person.password}
          /></label
        >
      </fieldset>
      <fieldset class="grid gap-3 sm:grid-cols-2">
        <legend class="pb-1 font-semibold">{t("welcome.languages")}</legend>
        <label class="flex flex-col gap-1"
          >{t("welcome.first")}<Input dir="ltr" required maxlength={35} bind:value={first} />
          <span class="text-sm text-moss">{ownName(first) || t("welcome.tag")}</span></label
        >
        <label class="flex flex-col gap-1"
          >{t("welcome.others")}<Input dir="ltr" placeholder={t("languages.example")} bind:value={others} />
          <span class="text-sm text-moss"
            >{more.map((tag) => ownName(tag) || tag).join(", ") || t("welcome.later")}</span
          ></label
        >
      </fieldset>
      <fieldset class="flex flex-wrap gap-x-5 gap-y-1">
        <legend class="pb-1 font-semibold">{t("welcome.type")}</legend>
        {#each types as one (one.id)}
          <Radio name="type" value={one.id} bind:group={type}>{one.title}</Radio>
        {/each}
      </fieldset>
      {#if error}<Trouble {error} />{/if}
      <Button look="main" type="submit" class="justify-center" disabled={busy}>{t("welcome.go")}</Button>
    </form>
  {:else if error}<Trouble {error} />
  {:else}<Waiting lines={3} />{/if}
</main>
