<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { sendFile, type ArchiveResult } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import FileInput from "../../ui/FileInput.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import ImportOutcome from "./ImportOutcome.svelte";

  /** Several translated files at once, each for the job that it names; what became of each. */
  const queries = useQueryClient();
  const acting = new Acting(() => queries.invalidateQueries());
  let came = $state.raw<ArchiveResult | null>(null);
  const may = $derived(["accept", "commission", "write"].some((verb) => session.may(verb)));

  function bring(event: Event & { currentTarget: HTMLInputElement }): Promise<boolean> {
    const input = event.currentTarget;
    came = null;
    return acting.do(async () => {
      const file = input.files?.[0];
      if (!file) return;
      input.value = "";
      came = await sendFile<ArchiveResult>("/api/job-files", file, "application/zip");
    });
  }
</script>

{#if may}
  <div class="flex pb-3">
    <FileInput accept=".zip" onchange={bring}
      >{t(acting.busy ? "jobs.importingAll" : "jobs.importAll")}</FileInput
    >
  </div>
{/if}
{#if acting.error}<Trouble error={acting.error} />{/if}
{#if came}
  <ul class="flex flex-col gap-3 pb-4" role="status">
    {#each came.files as one, n (n)}
      <li>
        <p class="font-semibold">{one.name}</p>
        {#if one.result}<ImportOutcome found={one.result} onHide={() => (came = null)} />{:else}<p
            class="text-straw"
          >
            {one.problem}
          </p>{/if}
      </li>
    {/each}
  </ul>
{/if}
