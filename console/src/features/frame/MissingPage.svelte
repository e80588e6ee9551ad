<script lang="ts">
  import { t } from "../../lib/i18n";
</script>

<h1 class="text-2xl font-semibold">{t("missing.title")}</h1>
<p class="mt-2">{t("missing.text")} <a href="/">{t("missing.back")}</a></p>
