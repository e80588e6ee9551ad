<script lang="ts">
  import "../../messages/translation";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Job, type OwnFile } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { send, Sending } from "../../lib/state/uploads.svelte";
  import Button from "../../ui/Button.svelte";
  import FileInput from "../../ui/FileInput.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import SendingLine from "../media/SendingLine.svelte";

  /** The files of a job that differ by language: the source's, and what is given in their place. */
  let { job }: { job: Job } = $props();
  const queries = useQueryClient();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["job", job.id] }));
  const key = (one: OwnFile) => `${one.entry} ${one.field}`;
  let sendings = $state<Record<string, Sending>>({});

  function give(one: OwnFile, sha256: string): Promise<boolean> {
    const params = { path: { id: job.id, entry: one.entry, field: one.field } };
    return acting.do(() =>
      sure(api.PUT("/api/jobs/{id}/own-files/{entry}/{field}", { params, body: { sha256 } })),
    );
  }

  async function bring(one: OwnFile, event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const input = event.currentTarget;
    const file = input.files?.[0];
    if (!file) return;
    const sending = (sendings[key(one)] = new Sending(file.name));
    try {
      const value = await send(file, sending);
      input.value = "";
      if (await give(one, value.sha256)) delete sendings[key(one)];
    } catch {
      // The line of the file says why it was refused.
      input.value = "";
    }
  }
</script>

<section class="sheet mb-4 px-4 py-3" aria-labelledby="own-files">
  <h2 id="own-files" class="pb-2 font-semibold">{t("ownFiles.heading")}</h2>
  {#if acting.error}<Trouble error={acting.error} />{/if}
  <ul class="flex flex-col gap-3">
    {#each job.own_files as one (key(one))}
      {@const going = sendings[key(one)]}
      <li class="flex flex-col gap-1">
        <div class="flex flex-wrap items-baseline gap-x-3 gap-y-1">
          <span>{one.title} · {one.label}</span>
          <a href="/api/files/{one.source.sha256}" download={one.source.name} class="break-all"
            >{one.source.name}</a
          >
          {#if one.target && one.state !== "open"}
            <span aria-hidden="true">→</span>
            <a href="/api/files/{one.target.sha256}" download={one.target.name} class="break-all"
              >{one.target.sha256 === one.source.sha256 ? t("ownFiles.same") : one.target.name}</a
            >
          {/if}
          <span class={["text-sm", one.state === "given" ? "text-moss" : "text-straw"]}
            >{one.state === "given"
              ? t("ownFiles.given", { by: one.by, at: when(one.at) })
              : t(`ownFiles.${one.state}`)}</span
          >
        </div>
        {#if going}<SendingLine sending={going} />{/if}
        {#if one.may_give}
          <div class="flex flex-wrap gap-2">
            <FileInput disabled={acting.busy} onchange={(event) => void bring(one, event)}
              >{t("ownFiles.give", { language: job.locale_name })}<span class="sr-only">
                {one.title}</span
              ></FileInput
            >
            {#if one.state !== "given"}
              <Button disabled={acting.busy} onclick={() => void give(one, "")}
                >{t("ownFiles.willDo")}<span class="sr-only"> {one.title}</span></Button
              >
            {/if}
          </div>
        {/if}
      </li>
    {/each}
  </ul>
</section>
