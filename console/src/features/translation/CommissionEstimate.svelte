<script lang="ts">
  import "../../messages/translation";
  import { api, sure, type CommissionDetails } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Progress from "../../ui/Progress.svelte";
  import Table from "../../ui/Table.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { added, KINDS, NOTHING, type Sum } from "./estimate";

  /** What a commission holds and costs in each language, counted a few entries at a time; and whether something is in the way of sending it. */
  let {
    commission,
    held = $bindable(false),
  }: {
    commission: CommissionDetails;
    held?: boolean;
  } = $props();
  let sums = $state<Record<string, Sum>>({});
  let counted = $state(0);
  let error = $state<unknown>(null);
  const locales = $derived(commission.targets.map((one) => one.locale));
  const total = $derived(commission.content.length * locales.length);
  /** All that the count follows from; it begins anew when that is another. */
  const asked = $derived(
    JSON.stringify([
      commission.id,
      commission.content.map((one) => one.id),
      commission.targets,
      commission.memories,
      commission.again,
      commission.current,
    ]),
  );
  let running = $state(false);

  $effect(() => {
    void asked;
    const stop = { now: false };
    void count(commission.id, locales, stop);
    return () => (stop.now = true);
  });

  async function count(id: string, tags: string[], stop: { now: boolean }): Promise<void> {
    [sums, counted, error, running, held] = [{}, 0, null, true, false];
    let many = 20;
    try {
      for (const locale of tags) {
        let sum = NOTHING;
        let cursor = "";
        do {
          const begun = performance.now();
          const page = await sure(
            api.GET("/api/commissions/{id}/estimate", {
              params: { path: { id }, query: { locale, limit: many, cursor } },
            }),
          );
          if (stop.now) return;
          // Each page looks anew at what stands before its own: the fewer, the better, as long as something is seen to move.
          if (performance.now() - begun < 1000) many = Math.min(2 * many, 500);
          sum = { ...added(sum, page.items, page.currency), trouble: sum.trouble || page.trouble };
          sums = { ...sums, [locale]: sum };
          held ||= !!sum.trouble;
          counted += page.items.length;
          cursor = page.next;
        } while (cursor);
      }
    } catch (caught) {
      if (!stop.now) error = caught;
    } finally {
      if (!stop.now) running = false;
    }
  }
</script>

<section aria-label={t("commissions.estimate")} class="pt-6">
  <h2 class="pb-2 text-lg font-semibold">{t("commissions.estimate")}</h2>
  {#if error}<Trouble {error} />{/if}
  {#if running}
    <Progress
      class="mb-2 max-w-96"
      value={counted}
      max={total}
      label={t("commissions.counting", { count: counted, total })}
    />
  {/if}
  <div class="overflow-x-auto">
    <Table class="w-full text-end" aria-label={t("commissions.estimate")}>
      <thead>
        <tr class="border-b text-sm text-moss">
          <th class="py-1 text-start">{t("coverage.language")}</th>
          <th class="px-2 text-end">{t("commissions.units")}</th>
          <th class="px-2 text-end">{t("commissions.words")}</th>
          {#each KINDS as kind (kind)}<th class="px-2 text-end">{t(`commissions.kind.${kind}`)}</th>{/each}
          <th class="ps-2 text-end">{t("commissions.cost")}</th>
        </tr>
      </thead>
      <tbody>
        {#each locales as tag (tag)}
          {@const sum = sums[tag]}
          <tr class="border-b">
            <th scope="row" class="py-1.5 text-start font-normal" lang={tag}
              >{session.locale(tag)?.name ?? tag}</th
            >
            {#if sum}
              <td class="px-2"
                >{t("commissions.unitsOf", { count: sum.units, fresh: sum.fresh, changed: sum.changed })}</td
              >
              <td class="px-2">{sum.words}</td>
              {#each KINDS as kind (kind)}<td class={["px-2", !sum.by[kind] && "text-moss"]}
                  >{sum.by[kind] ?? 0}</td
                >{/each}
              <td class="ps-2 whitespace-nowrap">{sum.currency ? `${sum.cost} ${sum.currency}` : "–"}</td>
            {:else}<td class="px-2 text-moss" colspan={KINDS.length + 3}>{t("commissions.notCounted")}</td
              >{/if}
          </tr>
          {#if sum?.trouble}<tr
              ><td></td><td class="px-2 text-start text-sm font-semibold" colspan={KINDS.length + 3}
                >{sum.trouble}</td
              ></tr
            >{/if}
          {#if sum?.away}<tr
              ><td></td><td class="px-2 text-start text-sm text-moss" colspan={KINDS.length + 3}
                >{t("commissions.away", { count: sum.away })}</td
              ></tr
            >{/if}
        {/each}
      </tbody>
    </Table>
  </div>
  <p class="pt-2 text-sm text-moss">{t("commissions.estimateAbout")}</p>
</section>
