<script lang="ts">
  import "../../messages/translation";
  import ArchiveImport from "./ArchiveImport.svelte";
  import CommissionsTab from "./CommissionsTab.svelte";
  import CoverageGrid from "./CoverageGrid.svelte";
  import MemoryTab from "./MemoryTab.svelte";
  import GlossaryTab from "./GlossaryTab.svelte";
  import JobLineView from "./JobLineView.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { t } from "../../lib/i18n";
  import { jobsQuery } from "./queries";
  import Button from "../../ui/Button.svelte";
  import Tabs from "../../ui/Tabs.svelte";

  let many = $state(1);
  const jobs = jobsQuery(() => many);
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
  {:else if jobs.error}
    <Trouble error={jobs.error} again={() => jobs.refetch()} />
  {:else if !jobs.data}
    <Waiting lines={3} />
  {:else}
    <ArchiveImport />
    <div class="flex flex-col gap-2">
      {#each jobs.data.items as job (job.id)}<JobLineView {job} />{:else}<p class="text-moss">
          {t("jobs.none")}
        </p>{/each}
    </div>
    {#if jobs.data.next}<Button class="mt-2" onclick={() => many++}>{t("jobs.more")}</Button>{/if}
  {/if}
</Tabs>
