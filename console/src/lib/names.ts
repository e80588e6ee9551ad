import { session } from "./state/session.svelte";

/** The stage that everything begins at, whatever its workflow. */
export const DRAFT = "draft";

/** The stages of all workflows by name, each as it is called, in their order; those `after` the draft alone, if asked. */
export function stageNames({ after = false } = {}): Map<string, string> {
  const stages = (session.setup?.workflows ?? []).flatMap((flow) => flow.stages);
  const wanted = stages.filter((one) => !after || one.name !== DRAFT).toSorted((a, b) => a.order - b.order);
  return new Map(wanted.map((one) => [one.name, one.label]));
}

/** The content types by name, each as it is called. */
export function typeNames(): Map<string, string> {
  return new Map((session.setup?.types ?? []).map((one) => [one.name, one.label]));
}

/** The languages by tag, each as it calls itself. */
export function localeNames(): Map<string, string> {
  return new Map((session.setup?.locales ?? []).map((one) => [one.tag, one.name]));
}
