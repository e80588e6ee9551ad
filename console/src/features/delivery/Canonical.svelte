<script lang="ts">
  /** Rich text as the service keeps it: sanitised to its allow-list and canonical. Nothing else may be shown so. */
  let { html }: { html: string } = $props();
</script>

<!-- eslint-disable-next-line svelte/no-at-html-tags -- sanitised by the service on the way in -->
{@html html}
