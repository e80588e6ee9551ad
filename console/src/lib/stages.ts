import { session } from "./state/session.svelte";

/** The stage that everything begins at, whatever its workflow. */
export const DRAFT = "draft";

/** The stages of all workflows by name, each as it is called, in their order; those `after` the draft alone, if asked. */
export function stageNames({ after = false } = {}): Map<string, string> {
  const stages = (session.setup?.workflows ?? []).flatMap((flow) => flow.stages);
  const wanted = stages.filter((one) => !after || one.name !== DRAFT).toSorted((a, b) => a.order - b.order);
  return new Map(wanted.map((one) => [one.name, one.label]));
}
