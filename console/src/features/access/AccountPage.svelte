<script lang="ts">
  import "../../messages/setup";
  import { useQueryClient } from "@tanstack/svelte-query";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { api, sure } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { LANGUAGES, speak } from "../../lib/language";
  import Passkeys from "./Passkeys.svelte";
  import SecondFactor from "./SecondFactor.svelte";
  import { accountQuery, sessionsQuery } from "./queries";
  import { notificationChoicesQuery } from "../collaboration/queries";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import ZoneField from "../../ui/ZoneField.svelte";
  import Select from "../../ui/Select.svelte";

  const account = accountQuery();
  const sessions = sessionsQuery();
  const choices = notificationChoicesQuery();
  const queries = useQueryClient();
  let before = $state("");
  let after = $state("");
  let wrong = $state<unknown>(null);
  let spare = $state<string[]>([]);

  async function again(): Promise<void> {
    await queries.invalidateQueries();
  }

  async function profile(zone: string, language: string): Promise<void> {
    try {
      const name = account.data!.name;
      await sure(api.PUT("/api/account", { body: { name, zone, language } }));
      await session.look();
      speak(language);
      toasts.say(t("account.kept"));
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function change(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    wrong = null;
    try {
      await sure(api.POST("/api/account/password", { body: { before, after } }));
      before = after = "";
      toasts.say(t("account.changed"));
      await again();
    } catch (error) {
      wrong = error;
    }
  }

  async function leave(id: string): Promise<void> {
    try {
      await sure(api.DELETE("/api/account/sessions/{id}", { params: { path: { id } } }));
      await again();
    } catch (error) {
      toasts.wrong(error);
    }
  }

  const reports = [
    "none",
    "monday",
    "tuesday",
    "wednesday",
    "thursday",
    "friday",
    "saturday",
    "sunday",
  ] as const;
  type Report = (typeof reports)[number];

  async function choose(
    ways: Record<string, string>,
    hour: number | null = null,
    report: Report | null = null,
  ): Promise<void> {
    try {
      await sure(api.PUT("/api/notifications/choices", { body: { ways, digest_hour: hour, report } }));
      await queries.invalidateQueries({ queryKey: ["notifications"] });
    } catch (error) {
      toasts.wrong(error);
    }
  }

  /** The program and machine that a browser names itself by. */
  function device(agent: string): string {
    const program = /(Firefox|Edg|Chrome|Safari|python-httpx|curl)/.exec(agent)?.[1] ?? "";
    const machine = /(Windows|Macintosh|Android|iPhone|iPad|Linux)/.exec(agent)?.[1] ?? "";
    const named = { Edg: "Edge", "python-httpx": t("account.commandLine") }[program] ?? program;
    return [named, machine].filter(Boolean).join(", ") || t("account.unknown");
  }
</script>

<svelte:head><title>{t("account.title")} – {t("app.name")}</title></svelte:head>
<h1 class="pb-3 text-2xl font-semibold">{t("account.title")}</h1>
{#if account.error}<Trouble error={account.error} again={() => account.refetch()} />
{:else if !account.data}<Waiting />
{:else}
  <div class="grid max-w-6xl gap-6 lg:grid-cols-2">
    <section class="sheet flex flex-col gap-3 p-4" aria-labelledby="me">
      <h2 id="me" class="text-lg font-semibold">{account.data.name}</h2>
      <p class="text-sm text-moss">{account.data.handle} · {account.data.email}</p>
      <ZoneField
        label={t("account.zone")}
        value={account.data.zone}
        onvalue={(zone) => void profile(zone, account.data.language)}
      />
      <label class="flex flex-col gap-1 text-sm"
        >{t("account.language")}<Select
          bind:value={() => account.data.language, (chosen) => void profile(account.data.zone, chosen)}
        >
          <option value="">{t("account.browsers")}</option>
          {#each Object.entries(LANGUAGES) as [tag, name] (tag)}<option value={tag} lang={tag}>{name}</option
            >{/each}
        </Select></label
      >
      <form class="flex flex-col gap-3 border-t pt-3" onsubmit={change}>
        <h3 class="font-semibold">{t("account.password")}</h3>
        <Input class="hidden" autocomplete="username" value={account.data.handle} readonly />
        <label class="flex flex-col gap-1 text-sm"
          >{t("account.before")}<Input
            type="password"
            autocomplete="current-password"
            required
            bind:value={before}
          /></label
        >
        <label class="flex flex-col gap-1 text-sm"
          >{t("account.new")}<Input
            type="password"
            autocomplete="new-password"
            minlength={8}
            required
            bind:value={after}
          /></label
        >
        {#if wrong}<Trouble error={wrong} />{/if}
        <Button type="submit" class="self-start">{t("account.change")}</Button>
        <p class="text-sm text-moss">{t("account.ends")}</p>
      </form>
    </section>
    <SecondFactor on={account.data.second_factor} bind:spare />
    <Passkeys onspare={(codes) => (spare = codes)} />
    <section class="sheet flex flex-col gap-3 p-4" aria-labelledby="told">
      <h2 id="told" class="text-lg font-semibold">{t("account.notifications")}</h2>
      {#if choices.data}
        {#each choices.data.kinds as one (one.kind)}
          <label class="flex flex-wrap items-center justify-between gap-2 text-sm"
            ><span class="min-w-0 flex-1 basis-56">{one.label}</span>
            <Select
              class="w-auto"
              value={one.way}
              onchange={(event) => choose({ [one.kind]: event.currentTarget.value })}
            >
              {#each choices.data.ways as way (way)}<option value={way}>{t(`account.way_${way}`)}</option
                >{/each}
            </Select></label
          >
        {/each}
        <label class="flex flex-wrap items-center justify-between gap-2 border-t pt-3 text-sm"
          >{t("account.hour")}
          <Select
            class="w-auto"
            value={choices.data.digest_hour}
            onchange={(event) => choose({}, Number(event.currentTarget.value))}
          >
            {#each Array.from({ length: 24 }, (_, n) => n) as hour (hour)}<option value={hour}
                >{String(hour).padStart(2, "0")}:00</option
              >{/each}
          </Select></label
        >
        <label class="flex flex-wrap items-center justify-between gap-2 text-sm"
          ><span class="min-w-0 flex-1 basis-56">{t("account.report")}</span>
          <Select
            class="w-auto"
            value={choices.data.report}
            onchange={(event) => choose({}, null, event.currentTarget.value as Report)}
          >
            {#each reports as day (day)}<option value={day}>{t(`account.report_${day}`)}</option>{/each}
          </Select></label
        >
      {/if}
    </section>
    <section class="sheet flex flex-col gap-3 p-4" aria-labelledby="sessions">
      <h2 id="sessions" class="text-lg font-semibold">{t("account.sessions")}</h2>
      <ul class="flex flex-col gap-2">
        {#each sessions.data?.items ?? [] as one (one.id)}
          <li class="flex flex-wrap items-center gap-2 border-b pb-2">
            <div class="min-w-0 flex-1 basis-48">
              <p class="font-semibold" title={one.agent}>
                {device(one.agent)}{#if one.this}<span class="ms-2 text-hedge">{t("account.this")}</span>{/if}
              </p>
              <p class="text-sm text-moss">
                {t("account.since", { since: when(one.since), seen: when(one.seen_at) })}
              </p>
            </div>
            {#if !one.this}<Button onclick={() => leave(one.id)}>{t("account.end")}</Button>{/if}
          </li>
        {/each}
      </ul>
    </section>
  </div>
{/if}
