<script lang="ts">
  import "../../messages/exchange";
  import type { PackageReport } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import Disclosure from "../../ui/Disclosure.svelte";

  /** What importing a package would do, or did: counted, and named where something is to be known. */
  let { report, done }: { report: PackageReport; done: boolean } = $props();
  const counts = $derived(
    (["added", "same", "merged", "asked", "left"] as const).filter((name) => report[name] > 0),
  );
  const definitions = $derived(report.definitions ?? []);
  const otherwise = $derived(definitions.filter((one) => one.how !== "added"));
  const coming = $derived(definitions.filter((one) => one.how === "added"));
  const people = $derived(report.new_people ?? []);
  const named = $derived(report.named ?? []);
</script>

<div class="flex flex-col gap-1 text-sm">
  <p class="text-moss">
    {#if report.mapping}
      {t("exchange.rows.holds", { count: report.entries })}{report.files
        ? `, ${t("exchange.rows.pictures", { count: report.files })}`
        : ""}
    {:else}
      {t("exchange.holds", { entries: report.entries, files: report.files, people: report.people })}
      {#if report.sentences || report.concepts}
        <br />{t("exchange.language", {
          sentences: report.sentences,
          newSentences: report.new_sentences,
          concepts: report.concepts,
          newConcepts: report.new_concepts,
        })}
      {/if}
      {#if done ? report.new_dispatches : report.dispatches}
        <br />{t(done ? "exchange.cameOpen" : "exchange.dispatches", {
          dispatches: report.dispatches,
          newDispatches: report.new_dispatches,
        })}
      {/if}
    {/if}
  </p>
  <ul class="flex flex-wrap gap-x-4">
    {#each counts as name (name)}
      <li class={["asked", "left"].includes(name) ? "font-semibold" : ""}>
        {t(`exchange.count.${name}`, { count: report[name] })}
      </li>
    {/each}
    {#if report.out && !done}<li class="font-semibold">
        {t("exchange.count.out", { count: report.out })}
      </li>{/if}
    {#if report.cleaned}<li>
        {t(report.mapping ? "exchange.rows.cleaned" : "exchange.count.cleaned", { count: report.cleaned })}
      </li>{/if}
  </ul>
  {#if people.length && !done}
    <p>{t("exchange.newPeople", { names: people.join(", ") })}</p>
  {/if}
  {#if coming.length && !done}
    <p>{t("exchange.coming", { names: coming.map((one) => one.name).join(", ") })}</p>
  {/if}
  {#if otherwise.length && !done}
    <Disclosure title={t("exchange.otherwise", { count: otherwise.length })}>
      <ul class="list-disc ps-5 text-moss">
        {#each otherwise as one (`${one.part}/${one.name}`)}<li>
            {one.name}: {one.members.join(", ")}
          </li>{/each}
      </ul>
    </Disclosure>
  {/if}
  {#if named.length}
    <Disclosure title={t("exchange.named", { count: named.length })} open={report.left > 0}>
      <ul class="list-disc ps-5">
        {#each named as one, n (n)}<li>
            <span class="font-semibold">{one.title || t("list.untitled")}</span>: {one.why}
          </li>{/each}
      </ul>
    </Disclosure>
  {/if}
</div>
