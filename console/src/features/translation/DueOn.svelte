<script lang="ts">
  import "../../messages/translation";
  import { todayIn } from "../../lib/days";
  import { day, t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";

  interface Props {
    due: string;
    /** Whether something of it is left to do. */
    open: boolean;
  }
  /** The day on which work is due; where that is over and something is left to do, it says so. */
  let { due, open }: Props = $props();
  const over = $derived(open && due < todayIn(session.me?.zone));
</script>

<span class={over ? "font-semibold text-straw" : ""}
  >{t(over ? "jobs.wasDueOn" : "jobs.dueOn", { day: day(due) })}</span
>
