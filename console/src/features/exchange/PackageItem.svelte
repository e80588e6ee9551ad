<script lang="ts">
  import "../../messages/exchange";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Package } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import Badge from "../../ui/Badge.svelte";
  import Button from "../../ui/Button.svelte";
  import Progress from "../../ui/Progress.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import MappingEditor from "./MappingEditor.svelte";
  import PackageReport from "./PackageReport.svelte";
  import { AT_WORK } from "./queries";

  /** A package on its way: how far it is, what was found in it, and what can be done with it. */
  let { one }: { one: Package } = $props();
  const queries = useQueryClient();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["packages"] }));
  const params = $derived({ path: { id: one.id } });
  const working = $derived(AT_WORK.includes(one.state));
  const given = $derived(one.way === "in");

  const run = () => acting.do(() => sure(api.POST("/api/packages/{id}/run", { params })));
  const cancel = () => acting.do(() => sure(api.POST("/api/packages/{id}/cancel", { params })));
  const undo = () => acting.do(() => sure(api.POST("/api/packages/{id}/undo", { params })));
  const drop = () => acting.do(() => sure(api.DELETE("/api/packages/{id}", { params })));
</script>

<li class="sheet flex flex-col gap-2 px-4 py-3">
  <div class="flex flex-wrap items-center gap-3">
    <p class="min-w-0 flex-1 basis-64">
      <span class="font-semibold">{one.name}</span>
      <Badge>{t(`exchange.state.${one.state}`)}</Badge>
      <span class="block text-sm text-moss"
        >{t(given ? "exchange.givenBy" : "exchange.madeBy", { name: one.by, when: when(one.at) })}</span
      >
    </p>
    {#if one.state === "done" && !given}
      <a class="text-sm" href="/api/packages/{one.id}/file" download={one.name}
        >{t("exchange.fetch")}<span class="sr-only"> {one.name}</span></a
      >
    {/if}
    {#if one.state === "looked"}
      <Button look="main" disabled={acting.busy} onclick={run}
        >{t("exchange.import")}<span class="sr-only"> {one.name}</span></Button
      >
    {:else if given && ["cancelled", "failed"].includes(one.state)}
      <Button disabled={acting.busy} onclick={run}
        >{t("exchange.goOn")}<span class="sr-only"> {one.name}</span></Button
      >
    {/if}
    {#if working}
      <Button disabled={acting.busy} onclick={cancel}
        >{t("exchange.cancel")}<span class="sr-only"> {one.name}</span></Button
      >
    {:else}
      {#if given && ["done", "cancelled", "failed"].includes(one.state)}
        <Button disabled={acting.busy} onclick={undo}
          >{t("exchange.undo")}<span class="sr-only"> {one.name}</span></Button
        >
      {/if}
      <Button disabled={acting.busy} onclick={drop}
        >{t("exchange.forget")}<span class="sr-only"> {one.name}</span></Button
      >
    {/if}
  </div>
  {#if working}
    <p class="text-sm text-moss" role="status">
      {one.step ? t(`exchange.step.${one.step}`) : t("exchange.waits")}
      {#if one.total}{t("exchange.of", { done: one.done, total: one.total })}{/if}
    </p>
    {#if one.total}<Progress
        value={one.done}
        max={one.total}
        label={t("exchange.progressOf", { name: one.name })}
      />{/if}
  {/if}
  {#if one.trouble}<p class="border-s-4 border-s-straw ps-3">{one.trouble}</p>{/if}
  {#if given && !working && one.report.sha256}<PackageReport
      report={one.report}
      done={one.state !== "looked"}
    />{/if}
  {#if one.state === "looked" && one.report.mapping}<MappingEditor {one} mapping={one.report.mapping} />{/if}
  {#if acting.error}<Trouble error={acting.error} />{/if}
</li>
