<script lang="ts">
  import "../messages/events";
  import type { LogEvent } from "../lib/api";
  import { t, when } from "../lib/i18n";

  /** What happened, newest first: who, what and when, with the note or the reason that was given. `locale` is the one that goes without saying. */
  let { events, locale = "" }: { events: LogEvent[]; locale?: string } = $props();
  const others = (event: LogEvent) =>
    event.locales.length && !(event.locales.length === 1 && event.locales[0] === locale)
      ? ` (${event.locales.join(", ")})`
      : "";
  const said = (event: LogEvent) => (event.what.note || event.what.reason || "") as string;
</script>

<ol class="flex flex-col gap-1 text-sm">
  {#each events as event (event.seq)}
    <li>
      <span class="font-semibold">{event.by}</span>
      {t(`event.${event.kind.replace(".", "_")}`)}{others(event)} · {when(event.at)}
      {#if said(event)}<span class="block ps-3 text-moss" dir="auto"
          >{t("quoted", { text: said(event) })}</span
        >{/if}
    </li>
  {/each}
</ol>
