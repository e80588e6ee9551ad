<script lang="ts">
  import { t } from "../../lib/i18n";
  import Button from "../../ui/Button.svelte";
  import DesktopPcOutline from "flowbite-svelte-icons/DesktopPcOutline.svelte";
  import TabletOutline from "flowbite-svelte-icons/TabletOutline.svelte";
  import MobilePhoneOutline from "flowbite-svelte-icons/MobilePhoneOutline.svelte";

  let { width = $bindable() }: { width: number } = $props();
  const widths = [
    { key: "desktop", px: 1280, icon: DesktopPcOutline },
    { key: "tablet", px: 820, icon: TabletOutline },
    { key: "phone", px: 390, icon: MobilePhoneOutline },
  ] as const;
</script>

<div role="group" aria-label={t("preview.width")} class="flex">
  {#each widths as one (one.key)}
    <Button
      icon={one.icon}
      label={t(`preview.${one.key}`)}
      class="rounded-none first:rounded-s-md last:rounded-e-md not-first:-ms-px"
      aria-pressed={width === one.px}
      onclick={() => (width = one.px)}
    />
  {/each}
</div>
