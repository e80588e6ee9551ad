<script lang="ts">
  import "../../messages/release";
  import { t } from "../../lib/i18n";
  import WhichOpen from "../../ui/WhichOpen.svelte";
  import { waitingQuery } from "./queries";

  /** One of the dispatches that are being put together (`into`, its id), or the name of a new one. */
  let { into = $bindable(""), name = $bindable("") }: { into?: string; name?: string } = $props();
  const found = waitingQuery("open");
</script>

<WhichOpen
  open={found.isPending ? undefined : (found.data?.items ?? [])}
  labels={{ into: t("dispatch.into"), fresh: t("dispatch.new"), name: t("dispatch.name") }}
  bind:into
  bind:name
/>
