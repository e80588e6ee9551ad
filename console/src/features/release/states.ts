import type { Dispatch } from "../../lib/api";
import { moment } from "../../lib/state/moment.svelte";

/** Of a dispatch in one of these states something is still to come. */
const COMING = ["open", "planned", "held", "failed"];
export const isComing = (one: Dispatch): boolean => COMING.includes(one.state);

/** Whether somebody is offered something to do with a dispatch: nothing at a time that is not now. */
export const offers = (one: Dispatch, act: Dispatch["acts"][number]): boolean =>
  !moment.at && one.acts.includes(act);

/** The tone in which a dispatch's state is said. */
export const TONES: Record<string, "moss" | "slate" | "straw" | "berry" | "hedge"> = {
  open: "moss",
  planned: "slate",
  held: "straw",
  failed: "straw",
  gone: "hedge",
};
