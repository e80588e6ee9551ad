<script lang="ts">
  import "../../messages/setup";
  import type { WorkflowImpact } from "../../lib/api";
  import { t } from "../../lib/i18n";

  /** What a change of a workflow, or of which is followed, would do. */
  let { found }: { found: WorkflowImpact } = $props();
</script>

<section class="sheet border-s-4 border-s-slate p-3" role="status">
  <h3 class="font-semibold">{t("flows.would")}</h3>
  <ul class="ms-4 list-disc">
    {#each found.effects as effect, n (n)}
      <li>
        {effect.what}
        {#if effect.editions}<span class="text-moss"
            >{t("flows.editions", { count: effect.editions })}
            {effect.examples.map((one) => t("quoted", { text: one.title })).join(", ")}</span
          >{/if}
      </li>
    {:else}<li>{t("flows.nothing")}</li>{/each}
  </ul>
</section>
