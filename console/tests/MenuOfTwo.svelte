<script lang="ts">
  import Menu from "../src/ui/Menu.svelte";
  import MenuLine from "../src/ui/MenuLine.svelte";

  let { chosen }: { chosen: (what: string) => void } = $props();
</script>

<Menu label="More actions">
  <MenuLine onclick={() => chosen("copy")}>Copy</MenuLine>
  <MenuLine onclick={() => chosen("remove")}>Remove</MenuLine>
</Menu>
