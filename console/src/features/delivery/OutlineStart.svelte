<script lang="ts">
  import { api, once, sure, type OutlineLine } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import { navigate } from "../../router";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";

  /** A new page below another, or at the top: of a type that may lie there. */
  let { locale }: { locale: string } = $props();
  let starting = $state.raw<{ below: OutlineLine | null; types: string[] } | null>(null);
  let type = $state("");
  let title = $state("");
  let busy = $state(false);

  /** Ask what is to be started there. */
  export async function ask(below: OutlineLine | null): Promise<void> {
    try {
      const query = below ? { below: below.id, limit: 1 } : { limit: 1 };
      const level = await sure(api.GET("/api/outline", { params: { query } }));
      starting = { below, types: level.allowed };
      type = level.allowed[0] ?? "";
      title = "";
    } catch (error) {
      toasts.wrong(error);
    }
  }

  async function start(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const kind = session.type(type);
    if (!starting || !kind) return;
    const place = kind.fields.find((field) => field.kind === "parent");
    const fields: Record<string, unknown> = { [kind.title]: title };
    if (place && starting.below) fields[place.name] = starting.below.id;
    busy = true;
    try {
      const made = await sure(
        api.POST("/api/entries", {
          params: { header: once() },
          body: { type, locale: locale || session.setup!.locales[0]!.tag, fields, note: "" },
        }),
      );
      starting = null;
      await navigate("/entries/:id/:locale", { params: { id: made.id, locale: made.locale } });
    } catch (error) {
      toasts.wrong(error);
    } finally {
      busy = false;
    }
  }
</script>

<FormDialog
  open={starting !== null}
  title={starting?.below ? t("outline.startBelow", { title: starting.below.title }) : t("outline.startTop")}
  go={starting?.types.length ? t("start.go") : ""}
  {busy}
  onclose={() => (starting = null)}
  onsubmit={start}
>
  {#if starting?.types.length}
    <label class="flex flex-col gap-1"
      >{t("start.type")}
      <Select bind:value={type}>
        {#each starting.types as one (one)}<option value={one}>{session.type(one)?.label ?? one}</option
          >{/each}
      </Select></label
    >
    <label class="flex flex-col gap-1">{t("start.name")}<Input bind:value={title} /></label>
  {:else}
    <p>{t("outline.nothingBelow")}</p>
  {/if}
</FormDialog>
