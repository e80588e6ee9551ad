<script lang="ts">
  import { t } from "../../lib/i18n";
  import type { Preview } from "../../lib/state/preview.svelte";

  interface Props {
    preview: Preview;
    address: string;
    /** How wide the page believes its screen to be; 0 is as wide as there is room. */
    width: number;
    title: string;
    marks: boolean;
  }
  let { preview, address, width, title, marks }: Props = $props();
  let room = $state(600);
  let frame = $state<HTMLIFrameElement>();
  const scale = $derived(width && room < width ? room / width : 1);
  const shown = $derived(width ? Math.min(width, room / scale) : room);

  $effect(() => {
    if (!frame) return;
    return preview.attach(frame, address);
  });
  $effect(() => {
    if (preview.joined) preview.tell({ kind: "marks", on: marks });
  });
</script>

<div bind:clientWidth={room} class="h-[75vh] min-h-80 overflow-hidden rounded border bg-wash">
  <iframe
    bind:this={frame}
    src={address}
    {title}
    class="mx-auto block border-0 bg-white"
    style:width="{shown}px"
    style:height="{100 / scale}%"
    style:transform="scale({scale})"
    style:transform-origin="top left"
    referrerpolicy="origin"
    sandbox="allow-scripts allow-same-origin allow-forms allow-popups allow-popups-to-escape-sandbox"
    onload={() => preview.loaded()}
  ></iframe>
</div>
<p class="sr-only" role="status">{preview.title ? t("preview.shows", { title: preview.title }) : ""}</p>
