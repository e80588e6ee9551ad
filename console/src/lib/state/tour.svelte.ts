import { Kept } from "./kept.svelte";

/** The steps of the tour, in order, each with the page that it is about; at `entry` it is the first of the entries there are. */
export const STEPS = [
  { name: "work", to: "/" },
  { name: "entries", to: "/entries" },
  { name: "entry", to: "/entries" },
  { name: "review", to: "/" },
  { name: "plan", to: "/timetable" },
  { name: "translation", to: "/translation" },
  { name: "outline", to: "/outline" },
  { name: "library", to: "/library" },
  { name: "figures", to: "/figures" },
  { name: "setUp", to: "/set-up" },
] as const;

/** Where somebody is in the tour; it goes on after the page is loaded anew, until they are through or leave. */
class Tour {
  #at = new Kept("tour", -1);

  /** The step, from 0 on; -1 where it is not taken. */
  get at(): number {
    return this.#at.value < STEPS.length ? this.#at.value : -1;
  }

  get on(): boolean {
    return this.at >= 0;
  }

  /** The page that the step is about; empty where the tour is not taken. */
  get place(): string {
    return STEPS[this.at]?.to ?? "";
  }

  go(step: number): void {
    this.#at.value = step >= 0 && step < STEPS.length ? step : -1;
  }
}

export const tour = new Tour();
