<script lang="ts">
  import type { Snippet } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import Finder from "./Finder.svelte";
  import NotificationsMenu from "../collaboration/NotificationsMenu.svelte";
  import { t } from "../../lib/i18n";
  import { live } from "../../lib/state/live.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { navigate, route } from "../../router";
  import Button from "../../ui/Button.svelte";
  import InboxOutline from "flowbite-svelte-icons/InboxOutline.svelte";
  import FileLinesOutline from "flowbite-svelte-icons/FileLinesOutline.svelte";
  import FolderOutline from "flowbite-svelte-icons/FolderOutline.svelte";
  import CalendarMonthOutline from "flowbite-svelte-icons/CalendarMonthOutline.svelte";
  import LanguageOutline from "flowbite-svelte-icons/LanguageOutline.svelte";
  import ImageOutline from "flowbite-svelte-icons/ImageOutline.svelte";
  import AdjustmentsHorizontalOutline from "flowbite-svelte-icons/AdjustmentsHorizontalOutline.svelte";
  import Modal from "../../ui/Modal.svelte";

  let { children }: { children: Snippet } = $props();
  let drawer = $state(false);
  let keys = $state(false);
  let dark = $state(document.documentElement.classList.contains("dark"));
  let finder = $state<Finder>();

  const queries = useQueryClient();
  $effect(() => live.follow(queries));

  const places = [
    { to: "/", key: "myWork", icon: InboxOutline },
    { to: "/entries", key: "entries", icon: FileLinesOutline },
    { to: "/outline", key: "outline", icon: FolderOutline },
    { to: "/timetable", key: "timetable", icon: CalendarMonthOutline },
    { to: "/translation", key: "translation", icon: LanguageOutline },
    { to: "/library", key: "library", icon: ImageOutline },
    { to: "/set-up", key: "setUp", icon: AdjustmentsHorizontalOutline },
  ] as const;

  function here(to: string): boolean {
    return to === "/" ? route.pathname === "/" : route.pathname.startsWith(to);
  }

  function toggleDark(): void {
    dark = !dark;
    document.documentElement.classList.toggle("dark", dark);
    localStorage.setItem("hawthorn:dark", dark ? "yes" : "no");
  }

  async function logOut(): Promise<void> {
    if (session.unsaved() && !confirm(t("login.unsaved"))) return;
    try {
      await session.logOut();
      queries.clear();
    } catch (error) {
      toasts.wrong(error);
    }
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
      finder?.focus();
    } else if (!typing(event.target) && !event.ctrlKey && !event.metaKey && !event.altKey) {
      if (event.key === "?") keys = true;
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
    class="border-line bg-wash md:sticky md:top-0 md:h-screen md:w-44 md:shrink-0 md:border-e"
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
        {#each places as place (place.to)}
          <li>
            <a
              href={place.to}
              onclick={() => (drawer = false)}
              aria-current={here(place.to) ? "page" : undefined}
              class="flex items-center gap-2 rounded px-2 py-2 font-semibold {here(place.to)
                ? 'bg-sheet text-hedge'
                : 'text-ink'}"
            >
              <place.icon class="size-5" />
              {t(`nav.${place.key}`)}
            </a>
          </li>
        {/each}
      </ul>
    </div>
  </nav>
  <div class="min-w-0 flex-1">
    <header class="flex flex-wrap items-center gap-3 border-b px-4 py-2">
      <Finder bind:this={finder} />
      <span class="ms-auto flex items-center gap-2 text-sm text-moss" role="status">
        <span
          class={["size-3 rounded-full border-2", live.connected ? "border-hedge bg-hedge" : "border-straw"]}
          aria-hidden="true"
        ></span>
        {live.connected ? t("live.on") : t("live.off")}
      </span>
      <NotificationsMenu />
      <Button onclick={toggleDark}>{dark ? t("person.light") : t("person.dark")}</Button>
      <a class="text-sm font-semibold" href="/account">{session.me?.name}</a>
      <Button onclick={logOut}>{t("login.out")}</Button>
    </header>
    <main id="content" tabindex="-1" class="px-4 py-5 outline-none">
      {@render children()}
    </main>
  </div>
</div>

<Modal bind:open={keys} title={t("keys.title")} size="sm">
  <dl class="grid grid-cols-[8rem_1fr] gap-y-2">
    <dt><kbd>Ctrl S</kbd></dt>
    <dd>{t("keys.save")}</dd>
    <dt><kbd>Ctrl K</kbd></dt>
    <dd>{t("keys.find")}</dd>
    <dt><kbd>n</kbd></dt>
    <dd>{t("keys.new")}</dd>
    <dt><kbd>?</kbd></dt>
    <dd>{t("keys.help")}</dd>
  </dl>
</Modal>
