<script lang="ts">
  import "../../messages/setup";
  import EntryPicker from "../content/fields/EntryPicker.svelte";
  import WorkflowEffects from "./WorkflowEffects.svelte";
  import { api, sure, type WorkflowChoice } from "../../lib/api";
  import { t } from "../../lib/i18n";
  import { localeNames, typeNames } from "../../lib/names";
  import { whileTyped } from "../../lib/state/checked.svelte";
  import { session } from "../../lib/state/session.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import AnyOf from "../../ui/AnyOf.svelte";
  import Button from "../../ui/Button.svelte";
  import Select from "../../ui/Select.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import CloseOutline from "flowbite-svelte-icons/CloseOutline.svelte";

  /** Which workflow is followed by what: by a type, a language or a section. */
  let {
    may,
    dirty = $bindable(),
    onDone,
  }: { may: boolean; dirty: boolean; onDone: () => Promise<void> } = $props();
  const flows = $derived(session.setup?.workflows ?? []);
  let choices = $state<WorkflowChoice[]>($state.snapshot(session.setup?.choices ?? []));
  let sections = $state<Record<string, string>>({});
  let busy = $state(false);
  $effect(() => {
    dirty = JSON.stringify(choices) !== JSON.stringify(session.setup?.choices ?? []);
  });

  for (const choice of session.setup?.choices ?? []) {
    if (choice.section)
      void sure(api.GET("/api/entries/{id}", { params: { path: { id: choice.section } } }))
        .then((found) => (sections[choice.section!] = found.title))
        .catch(() => undefined);
  }

  const check = whileTyped(
    () => (dirty && may ? { choices: $state.snapshot(choices) } : null),
    (body) => sure(api.POST("/api/workflows/choices/check", { body })),
  );

  async function keepChoices(): Promise<void> {
    busy = true;
    try {
      await sure(api.PUT("/api/workflows/choices", { body: { choices: $state.snapshot(choices) } }));
      await onDone();
      choices = $state.snapshot(session.setup?.choices ?? []);
      check.forget();
      toasts.say(t("flows.chosen"));
    } catch (caught) {
      check.wrong(caught);
    } finally {
      busy = false;
    }
  }
</script>

<section class="flex flex-col gap-3" aria-labelledby="choices">
  <h2 id="choices" class="text-lg font-semibold">{t("flows.choices")}</h2>
  <p class="text-sm text-moss">{t("flows.choicesAbout")}</p>
  {#each choices as choice, n (n)}
    <div class="sheet flex flex-wrap items-end gap-3 p-3">
      <label class="flex flex-col text-sm"
        >{t("flows.follow")}
        <Select bind:value={choice.workflow} disabled={!may}>
          {#each flows as flow (flow.name)}<option value={flow.name}>{flow.label}</option>{/each}
        </Select></label
      >
      <AnyOf label={t("flows.type")} bind:value={choice.type} options={typeNames()} disabled={!may} />
      <AnyOf label={t("flows.locale")} bind:value={choice.locale} options={localeNames()} disabled={!may} />
      <div class="flex min-w-48 flex-1 flex-col text-sm">
        {#if choice.section}
          <span>{t("flows.section")}</span>
          <span class="flex items-center gap-2 py-1"
            >{sections[choice.section] ?? choice.section}
            {#if may}<Button onclick={() => (choice.section = "")}>{t("flows.any")}</Button>{/if}</span
          >
        {:else if may}<EntryPicker
            label={t("flows.section")}
            onChoose={(one) => {
              choice.section = one.id;
              sections[one.id] = one.title;
            }}
          />{/if}
      </div>
      {#if may}<Button
          icon={CloseOutline}
          label={t("flows.dropChoice", { number: n + 1 })}
          onclick={() => choices.splice(n, 1)}
        />{/if}
    </div>
  {:else}<p class="text-moss">{t("flows.noChoices")}</p>{/each}
  {#if check.error}<Trouble error={check.error} />{/if}
  {#if check.found && dirty}<WorkflowEffects found={check.found} />{/if}
  {#if may}
    <div class="flex flex-wrap gap-2">
      <Button
        onclick={() => choices.push({ workflow: flows[0]?.name ?? "", type: "", locale: "", section: "" })}
        >{t("flows.addChoice")}</Button
      >
      <Button look={dirty ? "main" : "plain"} disabled={busy || !dirty || !!check.error} onclick={keepChoices}
        >{t("flows.keepChoices")}</Button
      >
    </div>
  {/if}
</section>
