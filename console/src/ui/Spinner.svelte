<script lang="ts">
  import { Spinner } from "flowbite-svelte";

  /** That something is on its way, where nothing is known of it yet. */
</script>

<Spinner class="fill-hedge text-line dark:text-line" />
