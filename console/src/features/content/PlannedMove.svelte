<script lang="ts">
  import "../../messages/setup";
  import { t } from "../../lib/i18n";
  import { session } from "../../lib/state/session.svelte";
  import type { Draft } from "../../lib/types";
  import Input from "../../ui/Input.svelte";
  import Select from "../../ui/Select.svelte";

  /** What a planned field does at its time: a move, the stage that it goes to, or the field that it sets. */
  interface Props {
    field: Draft;
    around: Draft[];
    change: (part: Partial<Draft>) => void;
  }
  let { field, around, change }: Props = $props();
  const MOVES = ["release", "withdraw", "advance", "archive", "set"] as const;
  const every = $derived((session.setup?.workflows ?? []).flatMap((flow) => flow.stages.slice(1, -1)));
  const stages = $derived(
    every.filter((stage, n) => every.findIndex((other) => other.name === stage.name) === n),
  );
  const payload = $derived((field.payload ?? {}) as { stage?: string; fields?: Record<string, unknown> });
  const others = $derived(around.filter((one) => one.name !== field.name && one.kind !== "planned"));
  const set = $derived(Object.entries(payload.fields ?? {})[0]);

  function choose(move: string): void {
    const first = others[0]?.name ?? "";
    const carried: Record<string, Record<string, unknown>> = {
      advance: { stage: stages[0]?.name ?? "" },
      set: { fields: first ? { [first]: "" } : {} },
    };
    change({ move, payload: carried[move] ?? {} });
  }

  /** A value as it is typed: numbers, yes and no, lists and objects as JSON, everything else as it stands. */
  function read(text: string): unknown {
    try {
      return text.trim() ? JSON.parse(text) : null;
    } catch {
      return text;
    }
  }
  const shown = (value: unknown) => (typeof value === "string" ? value : value ? JSON.stringify(value) : "");
</script>

<label class="flex flex-col gap-1 text-sm"
  >{t("types.move")}
  <Select value={field.move ?? ""} onchange={(event) => choose(event.currentTarget.value)}>
    {#if !field.move}<option value="">{t("types.chooseMove")}</option>{/if}
    {#each MOVES as move (move)}<option value={move}>{t(`types.move_${move}`)}</option>{/each}
  </Select></label
>
{#if field.move === "advance"}
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.moveStage")}
    <Select
      value={payload.stage ?? ""}
      onchange={(event) => change({ payload: { stage: event.currentTarget.value } })}
    >
      {#each stages as stage (stage.name)}<option value={stage.name}>{stage.label}</option>{/each}
    </Select></label
  >
{:else if field.move === "set"}
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.moveField")}
    <Select
      value={set?.[0] ?? ""}
      onchange={(event) => change({ payload: { fields: { [event.currentTarget.value]: set?.[1] ?? "" } } })}
    >
      {#each others as one (one.name)}<option value={one.name}>{one.label || one.name}</option>{/each}
    </Select></label
  >
  <label class="flex flex-col gap-1 text-sm"
    >{t("types.moveValue")}<Input
      value={shown(set?.[1])}
      onchange={(event) =>
        change({ payload: { fields: { [set?.[0] ?? ""]: read(event.currentTarget.value) } } })}
    /></label
  >
{/if}
