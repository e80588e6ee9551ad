<script lang="ts" module>
  import { Problem, type MoveLine } from "../../lib/api";

  /** Whether a quiet period is in the way: of moves that were checked, or of what was refused. */
  export function quietIn(moves: MoveLine[] | undefined, error: unknown = null): boolean {
    const refused = error instanceof Problem && Array.isArray(error.facts.unmet) ? error.facts.unmet : [];
    const unmet = [...(moves ?? []).flatMap((move) => move.unmet), ...(refused as { code: string }[])];
    return unmet.some((one) => one.code === "quiet");
  }
</script>

<script lang="ts">
  import "../../messages/release";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";

  /** Releasing in a quiet period all the same, for who holds the grant; it stays to be unchosen once it was chosen. */
  let { quiet, override = $bindable(false) }: { quiet: boolean; override?: boolean } = $props();
</script>

{#if (quiet || override) && session.may("override-quiet")}
  <label class="flex items-start gap-2"><Checkbox bind:checked={override} />{t("quiet.override")}</label>
{/if}
