<script lang="ts">
  import { t } from "../../lib/i18n";
  import { instantIn, wallIn } from "../../lib/days";
  import { shownMoment } from "../../lib/dates";
  import { moment } from "../../lib/state/moment.svelte";
  import { session } from "../../lib/state/session.svelte";
  import Button from "../../ui/Button.svelte";
  import DateField from "../../ui/DateField.svelte";

  /** At which instant the console stands: chosen here, said all the while, and left by one act. */
  let { onClose }: { onClose: () => void } = $props();
  const zone = $derived(session.me?.zone);
  const wall = $derived(moment.at ? wallIn(zone, new Date(moment.at)).slice(0, 16) : "");
  const ahead = $derived(!!moment.at && new Date(moment.at) > new Date());

  function go(chosen: string): void {
    if (chosen) moment.go(instantIn(zone, chosen).toISOString());
  }

  function back(): void {
    moment.go("");
    onClose();
  }
</script>

<section
  aria-label={t("moment.label")}
  class="sticky top-0 z-30 flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-slate bg-then px-4 py-2"
>
  <p class="font-semibold text-ink" role="status">
    {#if moment.at}{t(ahead ? "moment.ahead" : "moment.past", { when: shownMoment(wall) })}{:else}{t(
        "moment.choose",
      )}{/if}
  </p>
  <DateField time label={t("moment.at")} class="flex-row! items-center" value={wall} onchange={go} />
  {#if moment.at}
    <a href="/differences?until={encodeURIComponent(moment.at)}">{t("moment.differences")}</a>
    <span class="text-moss">{t("moment.readOnly")}</span>
  {/if}
  <Button look={moment.at ? "main" : "plain"} class="ms-auto" onclick={back}
    >{t(moment.at ? "moment.back" : "moment.close")}</Button
  >
</section>
