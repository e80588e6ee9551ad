<script lang="ts">
  import type { Snippet } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { PLACES } from "./places";
  import NotificationsMenu from "../collaboration/NotificationsMenu.svelte";
  import { t, when } from "../../lib/i18n";
  import { live } from "../../lib/state/live.svelte";
  import { moment } from "../../lib/state/moment.svelte";
  import { logOut } from "../../lib/state/leaving";
  import { present } from "../../lib/state/present.svelte";
  import { Kept } from "../../lib/state/kept.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { tour } from "../../lib/state/tour.svelte";
  import { navigate, route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Alert from "../../ui/Alert.svelte";
  import Kbd from "../../ui/Kbd.svelte";
  import Menu from "../../ui/Menu.svelte";
  import MenuLine from "../../ui/MenuLine.svelte";
  import ArrowRightToBracketOutline from "flowbite-svelte-icons/ArrowRightToBracketOutline.svelte";
  import ClockOutline from "flowbite-svelte-icons/ClockOutline.svelte";
  import KeyboardOutline from "flowbite-svelte-icons/KeyboardOutline.svelte";
  import MoonOutline from "flowbite-svelte-icons/MoonOutline.svelte";
  import QuestionCircleOutline from "flowbite-svelte-icons/QuestionCircleOutline.svelte";
  import SearchOutline from "flowbite-svelte-icons/SearchOutline.svelte";
  import SunOutline from "flowbite-svelte-icons/SunOutline.svelte";
  import UserCircleOutline from "flowbite-svelte-icons/UserCircleOutline.svelte";
  import UserOutline from "flowbite-svelte-icons/UserOutline.svelte";

  let { children }: { children: Snippet } = $props();
  let drawer = $state(false);
  let keys = $state(false);
  let asked = $state(false);
  let dark = $state(document.documentElement.classList.contains("dark"));
  let finding = $state(false);
  let found = $state(false);

  /** Whether help stands beside the page, until it is closed. */
  const helping = new Kept("help", false);
  let helper = $state<HTMLElement>();

  const queries = useQueryClient();
  $effect(() => live.follow(queries));

  /** Whether another instant is being chosen. */
  let standing = $state(false);
  $effect(() => void document.documentElement.classList.toggle("then", !!moment.at));

  function here(to: string): boolean {
    return to === "/" ? route.pathname === "/" : route.pathname.startsWith(to);
  }

  function toggleDark(): void {
    dark = !dark;
    document.documentElement.classList.toggle("dark", dark);
    localStorage.setItem("hawthorn:dark", dark ? "yes" : "no");
  }

  async function leave(): Promise<void> {
    if (!(await logOut())) return;
    queries.clear();
    present.forget();
  }

  function find(): void {
    finding = found = true;
  }

  function typing(target: EventTarget | null): boolean {
    return (
      target instanceof HTMLElement &&
      (target.isContentEditable || /INPUT|TEXTAREA|SELECT/.test(target.tagName))
    );
  }

  function onKey(event: KeyboardEvent): void {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
      event.preventDefault();
      find();
    } else if (!typing(event.target) && !event.ctrlKey && !event.metaKey && !event.altKey) {
      if (event.key === "?") keys = asked = true;
      if (event.key === "n") void navigate("/entries", { search: { start: "yes" } });
    }
  }
</script>

<svelte:window onkeydown={onKey} />
<a
  href="#content"
  class="sr-only rounded bg-hedge p-3 text-hedge-ink focus:not-sr-only focus:fixed focus:start-2 focus:top-2 focus:z-50"
  >{t("app.skip")}</a
>
<div class="flex min-h-screen flex-col md:flex-row">
  <nav
    aria-label={t("nav.label")}
    class="border-line bg-wash print:hidden md:sticky md:top-0 md:h-screen md:w-44 md:shrink-0 md:border-e"
  >
    <div class="flex items-center justify-between px-3 py-3">
      <a href="/" class="flex items-center gap-2 font-serif text-lg font-semibold text-ink">
        <img src="/favicon.svg" alt="" width="26" height="26" />{t("app.name")}
      </a>
      <Button
        class="md:hidden"
        aria-expanded={drawer}
        aria-controls="main-nav"
        onclick={() => (drawer = !drawer)}>{drawer ? t("nav.close") : t("nav.menu")}</Button
      >
    </div>
    <div id="main-nav" class="px-2 pb-3 {drawer ? '' : 'hidden'} md:block">
      <ul class="flex flex-col gap-1">
        {#each PLACES as place (place.to)}
          <li>
            <a
              href={place.to}
              onclick={() => (drawer = false)}
              aria-current={here(place.to) ? "page" : undefined}
              class="flex items-center gap-2 rounded px-2 py-2 font-semibold {here(place.to)
                ? 'bg-sheet text-hedge'
                : 'text-ink'} {tour.place === place.to ? 'ring-2 ring-hedge' : ''}"
            >
              <place.icon class="size-5" />
              {t(place.key)}
            </a>
          </li>
        {/each}
      </ul>
    </div>
  </nav>
  <div class="min-w-0 flex-1">
    <header class="flex flex-wrap items-center gap-3 border-b px-4 py-2 max-sm:gap-1.5 print:hidden">
      <Button
        icon={SearchOutline}
        class="min-w-0 justify-start font-normal text-moss max-sm:flex-1 max-sm:basis-0 sm:w-72"
        onclick={find}
      >
        <span class="truncate">{t("commands.hint")}</span><span class="ms-auto hidden sm:inline"
          ><Kbd>Ctrl K</Kbd></span
        >
      </Button>
      <span class="ms-auto flex items-center gap-2 text-sm text-moss" role="status">
        <span
          class={["size-3 rounded-full border-2", live.connected ? "border-hedge bg-hedge" : "border-straw"]}
          aria-hidden="true"
        ></span>
        <span class="max-sm:sr-only">{live.connected ? t("live.on") : t("live.off")}</span>
      </span>
      <Button
        icon={ClockOutline}
        label={moment.at ? t("moment.elsewhere") : t("moment.open")}
        aria-expanded={standing || !!moment.at}
        class={moment.at ? "border-slate! text-slate!" : ""}
        onclick={() => (standing = !standing)}
      />
      <Button
        icon={QuestionCircleOutline}
        label={t("help.open")}
        aria-expanded={helping.value}
        {@attach (button: HTMLElement) => void (helper = button)}
        onclick={() => (helping.value = !helping.value)}
      />
      <NotificationsMenu />
      <Menu>
        {#snippet act()}
          <UserCircleOutline class="size-5" aria-hidden={true} />
          <span class="max-sm:sr-only">{session.me?.name}</span>
        {/snippet}
        <MenuLine icon={UserOutline} onclick={() => navigate("/account")}>{t("account.title")}</MenuLine>
        <MenuLine icon={dark ? SunOutline : MoonOutline} onclick={toggleDark}
          >{dark ? t("person.light") : t("person.dark")}</MenuLine
        >
        <MenuLine icon={KeyboardOutline} onclick={() => (keys = asked = true)}>{t("keys.title")}</MenuLine>
        <MenuLine icon={ArrowRightToBracketOutline} onclick={leave}>{t("login.out")}</MenuLine>
      </Menu>
    </header>
    {#if standing || moment.at}
      {#await import("./MomentBar.svelte") then part}<part.default
          onClose={() => (standing = false)}
        />{/await}
    {/if}
    {#if live.lost}
      <div class="sticky top-0 z-30 px-4 pt-2">
        <Alert kind="wrong" role="status">{t("live.lost", { when: when(live.lost.toISOString()) })}</Alert>
      </div>
    {/if}
    <main id="content" tabindex="-1" class="px-4 py-5 outline-none">
      {@render children()}
    </main>
  </div>
  {#if helping.value}
    {#await import("./HelpPane.svelte") then part}<part.default
        onClose={() => {
          helping.value = false;
          helper?.focus();
        }}
      />{/await}
  {/if}
</div>

<!-- These come when they are first asked for. -->
{#if tour.on}{#await import("./TourCard.svelte") then part}<part.default />{/await}{/if}
{#if found}{#await import("./CommandBox.svelte") then part}<part.default bind:open={finding} />{/await}{/if}
{#if asked}{#await import("./KeysBox.svelte") then part}<part.default bind:open={keys} />{/await}{/if}
