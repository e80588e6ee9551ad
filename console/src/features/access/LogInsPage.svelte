<script lang="ts">
  import "../../messages/events";
  import "../../messages/setup";
  import { searchParams } from "sv-router";
  import { t, when } from "../../lib/i18n";
  import Badge from "../../ui/Badge.svelte";
  import Older from "../../ui/Older.svelte";
  import DateField from "../../ui/DateField.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";
  import Table from "../../ui/Table.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { logInsQuery, type LogInsAsked, peopleQuery } from "./queries";

  const people = peopleQuery();
  let what = $state<LogInsAsked["what"]>("");
  let person = $state(String(searchParams.get("person") ?? ""));
  let since = $state("");
  let until = $state("");
  let cursor = $state("");
  const found = logInsQuery(() => ({ what, person: person.trim(), since, until, cursor }));
  const ask = () => (cursor = "");
</script>

<svelte:head><title>{t("logIns.title")} – {t("app.name")}</title></svelte:head>
<p class="text-sm"><a href="/set-up">{t("setUp.title")}</a></p>
<h1 class="pb-1 text-2xl font-semibold">{t("logIns.title")}</h1>
<p class="max-w-3xl pb-3 text-moss">{t("logIns.about")}</p>
<div class="flex flex-wrap items-end gap-3 pb-4">
  <label class="flex flex-col text-sm"
    >{t("log.kind")}
    <Select bind:value={what} onchange={ask}>
      <option value="">{t("log.anything")}</option>
      {#each ["opened", "refused", "ended", "changed"] as one (one)}<option value={one}
          >{t(`logIns.what_${one}`)}</option
        >{/each}
    </Select></label
  >
  <label class="flex flex-col text-sm"
    >{t("logIns.name")}<Input bind:value={person} oninput={ask} list="log-in-names" autocomplete="off" />
    <datalist id="log-in-names">
      {#each people.data?.items ?? [] as one (one.handle)}<option value={one.handle}>{one.name}</option
        >{/each}
    </datalist></label
  >
  <DateField class="text-sm" label={t("log.since")} bind:value={since} onchange={ask} />
  <DateField class="text-sm" label={t("log.until")} bind:value={until} onchange={ask} />
</div>
{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting />
{:else if !found.data.items.length}<p class="text-moss">{t("log.none")}</p>
{:else}
  <Table aria-label={t("logIns.title")}>
    <thead>
      <tr class="border-b text-start text-sm text-moss">
        <th scope="col" class="py-1 pe-4 text-start">{t("logIns.when")}</th>
        <th scope="col" class="py-1 pe-4 text-start">{t("logIns.who")}</th>
        <th scope="col" class="py-1 pe-4 text-start">{t("logIns.whatHead")}</th>
        <th scope="col" class="py-1 pe-4 text-start">{t("logIns.from")}</th>
      </tr>
    </thead>
    <tbody>
      {#each found.data.items as one (one.seq)}
        <tr class="border-b align-top">
          <td class="py-2 pe-4 text-sm whitespace-nowrap text-moss">{when(one.at)}</td>
          <td class="py-2 pe-4"
            >{#if one.name}<span class="font-semibold">{one.name}</span>
              <span class="text-moss">{one.handle}</span>{:else}{one.handle || t("logIns.nobody")}{/if}</td
          >
          <td class="py-2 pe-4">
            {#if one.what === "refused"}<Badge tone="straw">{t("logIns.what_refused")}</Badge>
              {one.why || (one.by && t(`logIns.by_${one.by.replaceAll(" ", "_")}`))}
            {:else}{t(`event.${one.kind.replace(".", "_")}`)}
              {#if one.by}<span class="text-moss">{t(`logIns.by_${one.by.replaceAll(" ", "_")}`)}</span
                >{/if}{/if}
          </td>
          <td class="py-2 break-words">{one.source} <span class="text-sm text-moss">{one.agent}</span></td>
        </tr>
      {/each}
    </tbody>
  </Table>
  <Older bind:cursor next={found.data.next} />
{/if}
