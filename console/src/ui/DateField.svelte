<script lang="ts">
  import CalendarMonthOutline from "flowbite-svelte-icons/CalendarMonthOutline.svelte";
  import type { ClassValue } from "svelte/elements";
  import { dayFrom, momentFrom, shownDay, shownMoment } from "../lib/dates";
  import { todayIn } from "../lib/days";
  import { t } from "../lib/i18n";
  import { session } from "../lib/state/session.svelte";
  import Button from "./Button.svelte";
  import Calendar from "./Calendar.svelte";
  import Input from "./Input.svelte";
  import Popover from "./Popover.svelte";
  import Select from "./Select.svelte";

  /**
   * A day, or with `time` a day and a time of the wall, as `2026-11-30` and `2026-11-30T09:00`; empty for none. It is typed as people
   * say it (`lib/dates.ts` has what is read), or chosen from a calendar, and shown in words. `zone` says what day today is.
   */
  let {
    value = $bindable(""),
    label = "",
    time = false,
    zone = session.me?.zone,
    id: given,
    required = false,
    readonly = false,
    class: extra,
    onvalue,
    onchange,
    ...rest
  }: {
    value?: string;
    label?: string;
    time?: boolean;
    zone?: string;
    id?: string;
    required?: boolean;
    readonly?: boolean;
    class?: ClassValue;
    /** Called at each value that is read, while it is typed. */
    onvalue?: (value: string) => void;
    /** Called once somebody has finished with it. */
    onchange?: (value: string) => void;
    "aria-labelledby"?: string;
    "aria-describedby"?: string;
  } = $props();

  const own = $props.id();
  const id = $derived(given ?? own);
  let typed = $state<string | null>(null);
  let wrong = $state(false);
  let input = $state<HTMLInputElement>();
  let popover = $state<Popover>();
  const today = $derived(todayIn(zone));
  const said = $derived(value ? (time ? shownMoment(value) : shownDay(value)) : "");
  const hours = Array.from({ length: 24 }, (_, n) => String(n).padStart(2, "0"));
  const minutes = $derived(
    [
      ...new Set([
        ...Array.from({ length: 12 }, (_, n) => String(5 * n).padStart(2, "0")),
        value.slice(14, 16) || "00",
      ]),
    ].toSorted(),
  );

  function read(text: string): void {
    typed = text;
    const found = text.trim() && (time ? momentFrom(text, today) : dayFrom(text, today));
    wrong = found === null;
    input?.setCustomValidity(wrong ? t(time ? "dates.notReadTime" : "dates.notRead") : "");
    // What stood there before is not meant any more, even where what is typed cannot be read yet.
    value = found ?? "";
    if (!wrong) onvalue?.(value);
  }

  /** What was typed is said as it was understood; what was not stays as it is. */
  function leave(): void {
    if (typed === null || wrong) return;
    typed = null;
    onchange?.(value);
  }

  function choose(day: string, clock = value.slice(11, 16) || "09:00"): void {
    value = time ? `${day}T${clock}` : day;
    typed = null;
    wrong = false;
    input?.setCustomValidity("");
    onvalue?.(value);
    onchange?.(value);
  }
</script>

<div class={["relative flex max-w-full flex-col gap-1", extra]}>
  {#if label}<label for={id}>{label}</label>{/if}
  <div class="flex gap-1">
    <Input
      {...rest}
      {id}
      bind:element={input}
      class={["min-w-0", "max-w-full", time ? "w-60!" : "w-44!"]}
      autocomplete="off"
      placeholder={t(time ? "dates.exampleTime" : "dates.example")}
      aria-invalid={wrong || undefined}
      aria-errormessage={wrong ? `${id}-wrong` : undefined}
      {required}
      {readonly}
      value={typed ?? said}
      oninput={(event: Event) => read((event.currentTarget as HTMLInputElement).value)}
      onchange={leave}
    />
    {#if !readonly}
      <Popover bind:this={popover} label={t("dates.choose")} icon={CalendarMonthOutline} within="p-3">
        <Calendar
          chosen={value.slice(0, 10)}
          {today}
          onChoose={(day) => {
            choose(day);
            if (!time) popover?.close();
          }}
        />
        {#if time}
          <div class="flex items-end gap-2 border-t pt-2">
            <Select
              class="w-auto"
              aria-label={t("dates.hour")}
              value={value.slice(11, 13) || "09"}
              onchange={(event: Event) =>
                choose(
                  value.slice(0, 10) || today,
                  `${(event.currentTarget as HTMLSelectElement).value}:${value.slice(14, 16) || "00"}`,
                )}
            >
              {#each hours as one (one)}<option>{one}</option>{/each}
            </Select>
            <Select
              class="w-auto"
              aria-label={t("dates.minute")}
              value={value.slice(14, 16) || "00"}
              onchange={(event: Event) =>
                choose(
                  value.slice(0, 10) || today,
                  `${value.slice(11, 13) || "09"}:${(event.currentTarget as HTMLSelectElement).value}`,
                )}
            >
              {#each minutes as one (one)}<option>{one}</option>{/each}
            </Select>
            <Button class="ms-auto" onclick={() => popover?.close()}>{t("dates.done")}</Button>
          </div>
        {/if}
      </Popover>
    {/if}
  </div>
  {#if wrong}
    <p id="{id}-wrong" class="max-w-72 text-sm text-straw" role="alert">
      {t(time ? "dates.notReadTime" : "dates.notRead")}
    </p>
  {:else if typed !== null && value}
    <!-- Over what follows: were it in the way of it, a button would move from under whoever presses it as this goes. -->
    <p class="sheet absolute top-full z-10 mt-1 px-2 py-1 text-sm text-moss shadow" aria-live="polite">
      {said}
    </p>
  {/if}
</div>
