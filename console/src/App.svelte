<script lang="ts">
  import { QueryClient, QueryClientProvider } from "@tanstack/svelte-query";
  import Spinner from "./ui/Spinner.svelte";
  import { Router } from "sv-router";
  import LogInPage from "./features/access/LogInPage.svelte";
  import Shell from "./features/frame/Shell.svelte";
  import Toasts from "./features/frame/Toasts.svelte";
  import { Problem } from "./lib/api";
  import { t } from "./lib/i18n";
  import { session } from "./lib/state/session.svelte";
  import "./router";

  const queries = new QueryClient({
    defaultOptions: {
      queries: {
        staleTime: 5_000,
        retry: (count, error) => count < 2 && error instanceof Problem && error.status === 0,
      },
    },
  });
  // Whoever was invited, or comes first, has no session yet; one who has goes on to the console.
  const inviting = location.pathname === "/invitation";
  const first = location.pathname === "/welcome";
  const returning = location.pathname === "/log-in";
  void session.look();
</script>

<QueryClientProvider client={queries}>
  {#if import.meta.env.DEV && location.pathname === "/gallery"}
    {#await import("./ui/Gallery.svelte") then gallery}<gallery.default />{/await}
  {:else if !session.asked}
    <div class="grid min-h-screen place-items-center" role="status" aria-label={t("app.loading")}>
      <Spinner />
    </div>
  {:else if inviting && !session.me}
    {#await import("./features/access/InvitationPage.svelte") then page}<page.default />{/await}
  {:else if first && !session.me}
    {#await import("./features/access/WelcomePage.svelte") then page}<page.default />{/await}
  {:else if !session.me || returning}
    <LogInPage />
  {:else if session.me.factor_wanted}
    {#await import("./features/access/FactorPage.svelte") then page}<page.default />{/await}
  {:else}
    <Shell><Router /></Shell>
  {/if}
  <Toasts />
</QueryClientProvider>
