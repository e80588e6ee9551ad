<script lang="ts">
  import "../../messages/translation";
  import { api, once, sure } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { navigate } from "../../router";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Progress from "../../ui/Progress.svelte";
  import Select from "../../ui/Select.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import DueOn from "./DueOn.svelte";
  import StandingList from "./StandingList.svelte";
  import { COMMISSION_STATES, commissionsQuery, type CommissionState } from "./queries";

  /** The commissions: open ones that entries are put into, and those that were sent. */
  let asked = $state<CommissionState | "">("");
  let many = $state(1);
  const found = commissionsQuery(
    () => asked,
    () => many,
  );
  let starting = $state(false);
  let name = $state("");
  let shared = $state(true);
  const acting = new Acting(() => found.refetch());
  const names = (tags: string[]) => tags.map((tag) => session.locale(tag)?.name ?? tag).join(", ");

  function start(): Promise<boolean> {
    return acting.do(async () => {
      const made = await sure(
        api.POST("/api/commissions/open", { params: { header: once() }, body: { name, shared } }),
      );
      starting = false;
      await navigate("/translation/commissions/:id", { params: { id: made.id } });
    });
  }
</script>

<div class="flex flex-wrap items-end gap-3 pb-3">
  <label class="flex flex-col"
    ><span class="text-sm text-moss">{t("commissions.stateHead")}</span>
    <Select class="w-auto!" bind:value={asked}>
      <option value="">{t("commissions.all")}</option>
      {#each COMMISSION_STATES as state (state)}<option value={state}
          >{t(`commissions.state_${state}`)}</option
        >{/each}
    </Select></label
  >
  {#if session.may("commission")}
    <Button class="ms-auto" onclick={() => (starting = true)}>{t("commissions.start")}</Button>
  {/if}
</div>
{#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
{:else if !found.data}<Waiting lines={4} />
{:else}
  <div class="flex flex-col gap-2">
    {#each found.data.items as one (one.id)}
      <div class="sheet px-4 py-3">
        <div class="flex flex-wrap items-baseline gap-x-3">
          <a class="font-semibold" href="/translation/commissions/{one.id}">{one.name}</a>
          <span class={one.state === "open" ? "text-hedge" : "text-moss"}
            >{t(`commissions.state_${one.state}`)}{one.state === "open" && one.shared
              ? `, ${t("commissions.isShared")}`
              : ""}</span
          >
          <span>{t("commissions.entries", { count: one.entries })}</span>
          {#if one.locales.length}<span>→ {names(one.locales)}</span>{/if}
          <span class="ms-auto text-sm text-moss"
            >{#if one.due}<DueOn due={one.due} open={["open", "sent"].includes(one.state)} /> ·
            {/if}{one.by} · {when(one.sent_at || one.at)}</span
          >
        </div>
        {#if one.state === "sent"}
          <Progress class="mt-2" value={one.percent} label={t("jobs.progress", { percent: one.percent })} />
        {/if}
      </div>
    {:else}<p class="text-moss">{t(asked ? "commissions.noneSo" : "commissions.none")}</p>{/each}
  </div>
  {#if found.data.next}<Button class="mt-2" onclick={() => many++}>{t("commissions.more")}</Button>{/if}
{/if}
{#if session.may("commission")}<StandingList />{/if}
<FormDialog
  bind:open={starting}
  title={t("commissions.start")}
  go={t("commissions.start")}
  busy={acting.busy}
  error={acting.error}
  onsubmit={start}
>
  <label class="flex flex-col gap-1">{t("commissions.name")}<Input bind:value={name} maxlength={120} /></label
  >
  <label class="flex items-center gap-2"><Checkbox bind:checked={shared} />{t("commissions.shared")}</label>
</FormDialog>
