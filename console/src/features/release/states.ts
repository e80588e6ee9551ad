/** The tone in which a dispatch's state is said. */
export const TONES: Record<string, "moss" | "slate" | "straw" | "berry" | "hedge"> = {
  open: "moss",
  planned: "slate",
  held: "straw",
  failed: "straw",
  gone: "hedge",
};
