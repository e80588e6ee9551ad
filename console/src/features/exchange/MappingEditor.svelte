<script lang="ts">
  import "../../messages/exchange";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Package, type RowMapping } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Table from "../../ui/Table.svelte";
  import Trouble from "../../ui/Trouble.svelte";

  /** Where each column of rows goes: as it was proposed, to be changed, looked at again, and kept. */
  let { one, mapping }: { one: Package; mapping: RowMapping } = $props();
  const OF_ENTRY = ["entry.id", "entry.key", "entry.locale", "entry.revision", "entry.type"] as const;
  const queries = useQueryClient();
  const acting = new Acting(() => queries.invalidateQueries({ queryKey: ["packages"] }));
  const keeping = new Acting(() => queries.invalidateQueries({ queryKey: ["mappings"] }));
  let changed = $state<Record<string, string>>({});
  let name = $state("");
  const types = $derived((session.setup?.types ?? []).filter((kind) => !kind.read_only));
  const kind = $derived(session.type(mapping.type));
  const goals = $derived(
    Object.fromEntries(mapping.columns.map((each) => [each.column, each.to ?? ""])) as Record<string, string>,
  );
  const goal = (column: string) => changed[column] ?? goals[column] ?? "";
  const wanted = $derived<RowMapping>({
    ...mapping,
    columns: (one.report.columns ?? []).map((each) => ({
      column: each.column,
      to: goal(each.column),
      between: mapping.columns.find((same) => same.column === each.column)?.between ?? "",
    })),
  });
  const different = $derived(Object.entries(changed).some(([column, to]) => to !== (goals[column] ?? "")));

  const look = (body: { type?: string; locale?: string; mapping?: RowMapping }) =>
    acting.do(() =>
      sure(
        api.POST("/api/packages/{id}/map", {
          params: { path: { id: one.id } },
          body: { type: "", locale: "", ...body },
        }),
      ),
    );

  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const done = await keeping.do(() =>
      sure(api.PUT("/api/mappings/{name}", { params: { path: { name } }, body: wanted })),
    );
    if (done) toasts.say(t("exchange.rows.kept", { name }));
  }
</script>

<div class="flex flex-col gap-3 text-sm">
  <label class="flex flex-wrap items-center gap-2"
    >{t("exchange.rows.becomes")}
    <Select
      inline
      value={mapping.type}
      onchange={(event: Event) =>
        look({ type: (event.currentTarget as HTMLSelectElement).value, locale: mapping.locale })}
    >
      {#each types as each (each.name)}<option value={each.name}>{each.label}</option>{/each}
    </Select>
  </label>
  <Table>
    <thead class="text-start text-moss">
      <tr>
        <th scope="col" class="py-1 pe-3 text-start font-normal">{t("exchange.rows.column")}</th>
        <th scope="col" class="py-1 pe-3 text-start font-normal">{t("exchange.rows.example")}</th>
        <th scope="col" class="py-1 text-start font-normal">{t("exchange.rows.field")}</th>
      </tr>
    </thead>
    <tbody>
      {#each one.report.columns ?? [] as each (each.column)}
        <tr class="border-t border-line">
          <th scope="row" class="py-1.5 pe-3 text-start font-semibold">{each.column}</th>
          <td class="max-w-64 truncate py-1.5 pe-3 text-moss">{each.samples.join(" · ")}</td>
          <td class="py-1.5">
            <Select
              aria-label={t("exchange.rows.fieldOf", { column: each.column })}
              value={goal(each.column)}
              onchange={(event: Event) =>
                (changed[each.column] = (event.currentTarget as HTMLSelectElement).value)}
            >
              <option value="">{t("exchange.rows.leftOut")}</option>
              {#each kind?.fields ?? [] as field (field.name)}<option value={field.name}>{field.label}</option
                >{/each}
              {#each OF_ENTRY as to (to)}<option value={to}>{t(`exchange.rows.to.${to.slice(6)}`)}</option
                >{/each}
            </Select>
          </td>
        </tr>
      {/each}
    </tbody>
  </Table>
  {#if different}
    <Button look="main" class="self-start" disabled={acting.busy} onclick={() => look({ mapping: wanted })}
      >{t("exchange.rows.lookAgain")}</Button
    >
  {/if}
  {#if acting.error}<Trouble error={acting.error} />{/if}
  <form class="flex flex-wrap items-end gap-2" onsubmit={keep}>
    <label class="flex flex-col gap-1"
      >{t("exchange.rows.keepAs")}
      <Input bind:value={name} required maxlength={80} class="w-56" />
    </label>
    <Button type="submit" disabled={keeping.busy || !name.trim()}>{t("exchange.rows.keep")}</Button>
  </form>
  {#if keeping.error}<Trouble error={keeping.error} />{/if}
</div>
