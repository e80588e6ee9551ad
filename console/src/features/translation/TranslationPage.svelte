<script lang="ts">
  import "../../messages/translation";
  import CommissionsTab from "./CommissionsTab.svelte";
  import CoverageGrid from "./CoverageGrid.svelte";
  import MemoryTab from "./MemoryTab.svelte";
  import GlossaryTab from "./GlossaryTab.svelte";
  import JobsTab from "./JobsTab.svelte";
  import { t } from "../../lib/i18n";
  import Tabs from "../../ui/Tabs.svelte";

  let tab = $state<"jobs" | "commissions" | "coverage" | "memories" | "glossaries">("jobs");
</script>

<svelte:head><title>{t("jobs.title")} – {t("app.name")}</title></svelte:head>
<h1 class="pb-4 text-2xl font-semibold">{t("jobs.title")}</h1>
<Tabs
  label={t("jobs.title")}
  bind:chosen={tab}
  tabs={[
    { key: "jobs", label: t("jobs.jobs") },
    { key: "commissions", label: t("commissions.title") },
    { key: "coverage", label: t("coverage.title") },
    { key: "memories", label: t("memories.title") },
    { key: "glossaries", label: t("glossaries.title") },
  ]}
>
  {#if tab === "coverage"}
    <CoverageGrid />
  {:else if tab === "commissions"}
    <CommissionsTab />
  {:else if tab === "memories"}
    <MemoryTab />
  {:else if tab === "glossaries"}
    <GlossaryTab />
  {:else}
    <JobsTab />
  {/if}
</Tabs>
