<script lang="ts">
  import { Problem } from "../lib/api";
  import { t } from "../lib/i18n";
  import Alert from "./Alert.svelte";
  import Button from "./Button.svelte";

  interface Props {
    error: unknown;
    again?: () => void;
  }
  let { error, again }: Props = $props();
  const remedy = $derived(error instanceof Problem ? error.remedy : "");
</script>

<Alert kind="wrong" role="alert">
  <p class="font-semibold">{error instanceof Error ? error.message : t("problem.title")}</p>
  {#if remedy}<p class="text-moss">{remedy}</p>{/if}
  {#if again}<Button class="mt-3" onclick={again}>{t("problem.again")}</Button>{/if}
</Alert>
