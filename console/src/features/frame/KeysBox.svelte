<script lang="ts">
  import { t } from "../../lib/i18n";
  import Kbd from "../../ui/Kbd.svelte";
  import Modal from "../../ui/Modal.svelte";

  /** The keys that do something. */
  let { open = $bindable(false) }: { open: boolean } = $props();
</script>

<Modal bind:open title={t("keys.title")} size="sm">
  <dl class="grid grid-cols-[8rem_1fr] gap-y-2">
    <dt><Kbd>Ctrl S</Kbd></dt>
    <dd>{t("keys.save")}</dd>
    <dt><Kbd>Ctrl K</Kbd></dt>
    <dd>{t("keys.find")}</dd>
    <dt><Kbd>n</Kbd></dt>
    <dd>{t("keys.new")}</dd>
    <dt><Kbd>?</Kbd></dt>
    <dd>{t("keys.help")}</dd>
  </dl>
</Modal>
