<script lang="ts">
  import "../../messages/setup";
  import { untrack } from "svelte";
  import { useQueryClient } from "@tanstack/svelte-query";
  import { api, sure, type Person, type Reassigned, type Task } from "../../lib/api";
  import { day, t, when } from "../../lib/i18n";
  import { Acting } from "../../lib/state/acting.svelte";
  import { toasts } from "../../lib/state/toasts.svelte";
  import Button from "../../ui/Button.svelte";
  import FormDialog from "../../ui/FormDialog.svelte";
  import Select from "../../ui/Select.svelte";
  import Trouble from "../../ui/Trouble.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import { peopleQuery, tasksQuery } from "./queries";

  /** What somebody has to do, given to somebody else where that is wanted; and the end of their account. */
  interface Props {
    person: Person;
    onClose: () => void;
  }
  let { person, onClose }: Props = $props();
  const { handle, name } = untrack(() => person);
  const params = { path: { handle } };
  const found = tasksQuery(() => handle);
  const people = peopleQuery();
  const queries = useQueryClient();
  const acting = new Acting(() => queries.invalidateQueries());
  let to = $state("");
  let left = $state.raw<Reassigned["left"]>([]);
  const others = $derived(
    (people.data?.items ?? []).filter((one) => one.kind === "person" && one.handle !== handle),
  );
  const some = $derived(found.data?.items ?? []);

  const WHERE: Record<Task["kind"], (task: Task) => string> = {
    assignment: (task) => `/entries/${task.id}/${task.locale}`,
    job: (task) => `/translation/${task.id}`,
    dispatch: (task) => `/timetable/${task.id}`,
    commission: (task) => `/translation/commissions/${task.id}`,
    "standing-commission": () => "/translation?tab=standing",
    gate: () => "/set-up/workflows",
  };
  const due = (task: Task) => (task.due.includes("T") ? when(task.due) : day(task.due));
  const why = (task: Task) =>
    left.find((one) => one.kind === task.kind && one.id === task.id && one.locale === task.locale)?.why;

  const reassign = () =>
    acting.do(async () => {
      const other = others.find((one) => one.handle === to)?.name ?? to;
      const result = await sure(api.POST("/api/people/{handle}/tasks/reassign", { params, body: { to } }));
      left = result.left;
      if (result.moved) toasts.say(t("people.reassigned", { count: result.moved, name: other }));
      to = "";
    });

  const end = () =>
    acting
      .do(() => sure(api.DELETE("/api/people/{handle}", { params })))
      .then((done) => {
        if (!done) return;
        toasts.say(t("people.ended", { name }));
        onClose();
      });
</script>

<FormDialog
  open
  size="md"
  title={t("people.ending", { name })}
  go={t("people.endIt")}
  busy={acting.busy}
  error={acting.error}
  onclose={onClose}
  onsubmit={end}
>
  <p>{t("people.endAbout")}</p>
  <section aria-labelledby="tasks" class="flex flex-col gap-2">
    <h3 id="tasks" class="font-semibold">{t("people.tasks")}</h3>
    {#if found.error}<Trouble error={found.error} again={() => found.refetch()} />
    {:else if !found.data}<Waiting lines={2} />
    {:else if !some.length}<p class="text-moss">{t("people.noTasks")}</p>
    {:else}
      <ul class="flex flex-col gap-1">
        {#each some as task (task.kind + task.id + task.locale + task.name)}
          <li>
            <a href={WHERE[task.kind](task)}>{task.name}</a>
            <span class="text-sm text-moss"
              >{t(`people.task_${task.kind}`)}{task.locale ? ` · ${task.locale}` : ""}{task.due
                ? ` · ${due(task)}`
                : ""}</span
            >
            {#if why(task)}<span class="block text-sm text-straw">{why(task)}</span>{/if}
          </li>
        {/each}
      </ul>
      {#if some.some((task) => task.may_move)}
        <div class="flex flex-wrap items-end gap-2">
          <label class="flex min-w-48 flex-1 flex-col gap-1 text-sm"
            >{t("people.giveTo")}<Select bind:value={to}>
              <option value="">{t("people.giveNobody")}</option>
              {#each others as one (one.handle)}<option value={one.handle}>{one.name}</option>{/each}
            </Select></label
          >
          <Button disabled={acting.busy || !to} onclick={reassign}>{t("people.reassign")}</Button>
        </div>
      {/if}
    {/if}
  </section>
</FormDialog>
