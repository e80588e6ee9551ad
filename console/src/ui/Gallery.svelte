<script lang="ts">
  import "../messages/release";
  import "../messages/setup";
  import "../messages/translation";
  import PlusOutline from "flowbite-svelte-icons/PlusOutline.svelte";
  import TrashBinOutline from "flowbite-svelte-icons/TrashBinOutline.svelte";
  import { t } from "../lib/i18n";
  import AnyOf from "./AnyOf.svelte";
  import Alert from "./Alert.svelte";
  import Badge from "./Badge.svelte";
  import Button from "./Button.svelte";
  import Checkbox from "./Checkbox.svelte";
  import DateField from "./DateField.svelte";
  import Disclosure from "./Disclosure.svelte";
  import FileInput from "./FileInput.svelte";
  import FormDialog from "./FormDialog.svelte";
  import Handle from "./Handle.svelte";
  import Input from "./Input.svelte";
  import Kbd from "./Kbd.svelte";
  import Menu from "./Menu.svelte";
  import MenuLine from "./MenuLine.svelte";
  import Popover from "./Popover.svelte";
  import Progress from "./Progress.svelte";
  import Radio from "./Radio.svelte";
  import Rail from "./Rail.svelte";
  import Select from "./Select.svelte";
  import Sortable from "./Sortable.svelte";
  import Spinner from "./Spinner.svelte";
  import Table from "./Table.svelte";
  import Tabs from "./Tabs.svelte";
  import Textarea from "./Textarea.svelte";
  import Toast from "./Toast.svelte";
  import Trouble from "./Trouble.svelte";
  import Waiting from "./Waiting.svelte";
  import ZoneField from "./ZoneField.svelte";
  import { LOOKS, type Look } from "./look";

  /** Every control, in light, in dark and from right to left; `npm run dev` shows it at /gallery, and what is built has none of it. */
  const looks = Object.keys(LOOKS) as Look[];
  const tabs = [
    { key: "now", label: t("entry.tabNow") },
    { key: "compare", label: t("entry.tabCompare") },
    { key: "history", label: t("entry.tabHistory") },
  ];
  const beads = [
    { stage: "draft", label: "1", state: "head", revision: 3, behind: 0, text: "1" },
    { stage: "review", label: "2", state: "older", revision: 2, behind: 1, text: "2" },
    { stage: "release", label: "3", state: "none", revision: null, behind: 0, text: "3" },
  ] as never;
  const tones = ["moss", "slate", "straw", "berry", "hedge"] as const;
  let order = $state.raw(["a", "b", "c"].map((id) => ({ id })));
  let tab = $state("now");
  let open = $state(false);
  let error = $state<unknown>(null);
</script>

{#snippet controls()}
  <div class="flex flex-col gap-4 p-6">
    <div class="flex flex-wrap items-center gap-2">
      {#each looks as look (look)}<Button {look} class="w-auto">{look}</Button>{/each}
      <Button icon={PlusOutline}>{t("list.start")}</Button>
      <Button icon={TrashBinOutline} label={t("more.remove")} />
      <Button disabled>{t("nav.close")}</Button>
      <Button look="main" busy>{t("nav.close")}</Button>
      <Button aria-pressed="true">{t("nav.menu")}</Button>
    </div>
    <div class="flex flex-wrap items-end gap-3">
      <label class="flex flex-col gap-1">{t("start.name")}<Input value={t("app.name")} /></label>
      <label class="flex flex-col gap-1">{t("start.name")}<Input readonly value={t("app.name")} /></label>
      <label class="flex flex-col gap-1"
        >{t("start.locale")}<Select value="a"><option value="a">{t("app.name")}</option></Select></label
      >
      <span>{t("list.in")} <Select inline value="a"><option value="a">{t("app.name")}</option></Select></span>
      <DateField label={t("jobs.due")} value="2027-03-31" />
      <DateField time label={t("plan.day")} value="2027-03-31T09:00" />
    </div>
    <label class="flex flex-col gap-1">{t("entry.note")}<Textarea rows={2} value={t("start.title")} /></label>
    <div class="flex flex-wrap items-center gap-4">
      <Checkbox checked>{t("list.incomplete")}</Checkbox>
      <Radio name="one" group="a" value="a">{t("plan.now")}</Radio>
      <Radio name="one" group="a" value="b">{t("plan.later")}</Radio>
      <FileInput>{t("library.upload")}</FileInput>
      <FileInput aria-label={t("fields.choose")} class="max-w-72" />
    </div>
    <div class="flex flex-wrap items-center gap-4">
      <Menu label={t("more.label")} icon={PlusOutline}>
        <MenuLine onclick={() => {}}>{t("more.copy")}</MenuLine>
        <MenuLine icon={TrashBinOutline} chosen onclick={() => {}}>{t("more.remove")}</MenuLine>
      </Menu>
      <Popover title={t("entry.why")} align="start">
        <p class="p-2">{t("start.title")}</p>
      </Popover>
      <Button
        onclick={() => {
          error = null;
          open = true;
        }}>{t("start.title")}</Button
      >
      <Spinner />
      <Progress class="w-40" value={40} label={t("app.loading")} />
      <Rail {beads} names />
    </div>
    <div class="flex flex-wrap items-center gap-3">
      {#each tones as tone (tone)}<Badge {tone}>{tone}</Badge>{/each}
      <Kbd>Ctrl K</Kbd>
      <ZoneField label={t("plan.zone")} value="Europe/London" />
      <AnyOf label={t("flows.type")} value="a" options={[["a", t("app.name")]]} />
    </div>
    <Alert>{t("entry.movedOn")}</Alert>
    <Trouble error={new Error(t("live.unreachable"))} again={() => {}} />
    <Toast onclose={() => {}}>{t("entry.unchanged")}</Toast>
    <Toast wrong onclose={() => {}}>{t("problem.title")}</Toast>
    <Waiting lines={2} />
    <Sortable items={order} named={(one) => one.id} onOrder={(next) => (order = next)} class="flex gap-2">
      {#snippet children(one)}<span class="sheet flex items-center p-1"
          ><Handle id={one.id} label={one.id} />{one.id}</span
        >{/snippet}
    </Sortable>
    <Disclosure title={t("entry.why")}><p>{t("start.title")}</p></Disclosure>
    <Tabs {tabs} bind:chosen={tab} label={t("entry.tabs")}>{tab}</Tabs>
    <Table aria-label={t("app.name")}>
      <thead><tr><th scope="col" class="border-b px-2 text-start">{t("start.name")}</th></tr></thead>
      <tbody><tr><td class="border-b px-2">{t("app.name")}</td></tr></tbody>
    </Table>
  </div>
{/snippet}

<main>
  <section class="bg-paper text-ink">{@render controls()}</section>
  <section class="dark bg-paper text-ink">{@render controls()}</section>
  <section dir="rtl" class="bg-paper text-ink">{@render controls()}</section>
</main>
<FormDialog
  bind:open
  title={t("start.title")}
  go={t("start.go")}
  {error}
  onsubmit={() => (error = new Error(t("problem.title")))}
>
  <label class="flex flex-col gap-1">{t("start.name")}<Input required /></label>
</FormDialog>
