<script lang="ts">
  import { page } from "$app/state";
</script>

<svelte:head><title>{page.error?.message}</title></svelte:head>
<main>
  <h1>{page.error?.message}</h1>
  <p><a href="/">To the front page</a></p>
</main>
