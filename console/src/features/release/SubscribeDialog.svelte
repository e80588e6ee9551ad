<script lang="ts">
  import "../../messages/release";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type CalendarMade } from "../../lib/api";
  import { t, when } from "../../lib/i18n";
  import { toggled } from "../../lib/lists";
  import Alert from "../../ui/Alert.svelte";
  import Button from "../../ui/Button.svelte";
  import Checkbox from "../../ui/Checkbox.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Input from "../../ui/Input.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import { given, type Narrowing } from "./narrowing";
  import { calendarsQuery } from "./timetable";

  /** Calendars to subscribe to in another program: of what is shown now, at an address that is secret and can be renewed. */
  let { open = $bindable(false), narrowing }: { open?: boolean; narrowing: Narrowing } = $props();
  const queries = useQueryClient();
  const found = calendarsQuery();
  const KINDS = ["dispatches", "assignments", "jobs", "quiet periods"];
  let name = $state(t("calendars.usual"));
  let kinds = $state([...KINDS]);
  let made = $state.raw<CalendarMade | null>(null);
  let error = $state<unknown>(null);
  const only = $derived(Object.keys(given(narrowing)).length > 0);

  async function done(act: () => Promise<CalendarMade | undefined | void>): Promise<void> {
    error = null;
    try {
      made = (await act()) ?? null;
      await queries.invalidateQueries({ queryKey: ["calendars"] });
    } catch (caught) {
      error = caught;
    }
  }

  function add(): Promise<void> {
    const { state, ...about } = narrowing;
    const shows = { kinds, ...about, states: state ? [state] : [] };
    return done(() => sure(api.POST("/api/calendars", { body: { name, shows } })));
  }

  const at = (id: string) => ({ params: { path: { id } } });
  const renew = (id: string) => done(() => sure(api.POST("/api/calendars/{id}/renew", at(id))));
  const end = (id: string) =>
    done(async () => {
      await sure(api.DELETE("/api/calendars/{id}", at(id)));
    });
</script>

<FormDialog
  bind:open
  title={t("calendars.title")}
  size="md"
  go={t("calendars.add")}
  back={t("calendars.close")}
  {error}
  ready={name.trim() !== "" && kinds.length > 0}
  onsubmit={add}
>
  <p class="text-moss">{t("calendars.about")}</p>
  {#if made}
    <Alert role="status">
      <p>{t("calendars.address", { name: made.name })}</p>
      <p class="pt-1"><code class="break-all" dir="ltr">{made.address}</code></p>
    </Alert>
  {/if}
  {#if found.error}<Trouble error={found.error} />{/if}
  {#if found.data?.items.length}
    <ul class="flex flex-col gap-2" aria-label={t("calendars.yours")}>
      {#each found.data.items as one (one.id)}
        <li class="flex flex-wrap items-center gap-2">
          <span class="flex-1"
            ><span class="font-semibold">{one.name}</span>
            <span class="text-sm text-moss">{t("calendars.since", { when: when(one.at) })}</span></span
          >
          <Button onclick={() => renew(one.id)}
            >{t("calendars.renew")}<span class="sr-only"> {one.name}</span></Button
          >
          <Button onclick={() => end(one.id)}
            >{t("calendars.end")}<span class="sr-only"> {one.name}</span></Button
          >
        </li>
      {/each}
    </ul>
  {/if}
  <label class="flex flex-col gap-1">{t("calendars.name")}<Input bind:value={name} maxlength={120} /></label>
  <fieldset class="flex flex-wrap gap-x-5 gap-y-1.5">
    <legend class="pb-1">{t("calendars.shows")}</legend>
    {#each KINDS as kind (kind)}
      <Checkbox checked={kinds.includes(kind)} onchange={() => (kinds = toggled(kinds, kind))}
        >{t(`calendars.kind.${kind}`)}</Checkbox
      >
    {/each}
  </fieldset>
  {#if only}<p class="text-sm text-moss">{t("calendars.narrowed")}</p>{/if}
</FormDialog>
