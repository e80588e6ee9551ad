<script lang="ts" module>
  import { session } from "../../lib/state/session.svelte";

  /** The stages between draft and release, of all workflows. */
  export function betweenStages(): { name: string; label: string }[] {
    const every = (session.setup?.workflows ?? []).flatMap((flow) => flow.stages.slice(1, -1));
    return every.filter((stage, n) => every.findIndex((other) => other.name === stage.name) === n);
  }
</script>

<script lang="ts">
  import "../../messages/release";
  import { t } from "../../lib/i18n";
  import Select from "../../ui/Select.svelte";

  /** The stage to which something advances. */
  let { stage = $bindable("") }: { stage: string } = $props();
  const stages = betweenStages();
  if (!stage) stage = stages[0]?.name ?? "";
</script>

<label class="flex flex-col gap-1"
  >{t("dispatch.toStage")}
  <Select bind:value={stage}>
    {#each stages as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
  </Select></label
>
