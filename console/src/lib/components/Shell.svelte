<script lang="ts">
  import type { Snippet } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { Modal } from "flowbite-svelte";
  import Finder from "./Finder.svelte";
  import NotificationsMenu from "./NotificationsMenu.svelte";
  import { t } from "../i18n";
  import { live } from "../state/live.svelte";
  import { toasts } from "../state/toasts.svelte";
  import { session } from "../state/session.svelte";
  import { navigate, route } from "../../router";

  let { children }: { children: Snippet } = $props();
  let drawer = $state(false);
  let keys = $state(false);
  let dark = $state(document.documentElement.classList.contains("dark"));
  let finder = $state<Finder>();

  const queries = useQueryClient();
  $effect(() => live.follow(queries));

  const places = [
    { to: "/", key: "myWork", mark: "M3 7h12M3 12h8M3 17h5" },
    { to: "/entries", key: "entries", mark: "M5 3h8l3 3v12H5zM8 9h6M8 13h6" },
    { to: "/outline", key: "outline", mark: "M4 4h5v3H4zM9 10h7v3H9zM9 15h7v3H9zM6 7v10h3M6 12h3" },
    { to: "/timetable", key: "timetable", mark: "M3 5h14v12H3zM3 9h14M7 3v4M13 3v4" },
    {
      to: "/translation",
      key: "translation",
      mark: "M3 6h8M7 4v2M4 13c4-1 6-4 6-7M6 8c1 3 3 4 5 5M11 18l4-9 4 9M12.5 15h5",
    },
    { to: "/library", key: "library", mark: "M3 4h14v12H3zM3 13l4-4 4 4 2-2 4 4M13 7.5h.5" },
    { to: "/set-up", key: "setUp", mark: "M4 6h12M4 10h12M4 14h12M8 4v4M13 8v4M7 12v4" },
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
      <button
        class="act md:hidden"
        aria-expanded={drawer}
        aria-controls="main-nav"
        onclick={() => (drawer = !drawer)}>{drawer ? t("nav.close") : t("nav.menu")}</button
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
              <svg
                width="20"
                height="20"
                viewBox="0 0 20 20"
                fill="none"
                stroke="currentColor"
                stroke-width="1.6"
                aria-hidden="true"><path d={place.mark} /></svg
              >
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
        <svg width="12" height="12" aria-hidden="true"
          ><circle
            cx="6"
            cy="6"
            r="4.5"
            fill={live.connected ? "var(--hedge)" : "none"}
            stroke={live.connected ? "var(--hedge)" : "var(--straw)"}
            stroke-width="2"
          /></svg
        >
        {live.connected ? t("live.on") : t("live.off")}
      </span>
      <NotificationsMenu />
      <button class="act" onclick={toggleDark}>{dark ? t("person.light") : t("person.dark")}</button>
      <a class="text-sm font-semibold" href="/account">{session.me?.name}</a>
      <button class="act" onclick={logOut}>{t("login.out")}</button>
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
