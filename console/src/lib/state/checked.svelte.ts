/**
 * What the service says about something while it is being typed: asked once somebody pauses, and only the last answer counts.
 * `asked` is what is to be looked at, or null where there is nothing to ask about yet; what was said last stays while something is
 * wrong if it `keeps`. To be called while a component is made.
 */
export function whileTyped<Asked, Found>(
  asked: () => Asked | null,
  ask: (asked: Asked) => Promise<Found>,
  { pause = 300, keeps = false } = {},
) {
  let found = $state.raw<Found | null>(null);
  let error = $state<unknown>(null);
  $effect(() => {
    const wanted = asked();
    if (wanted === null) return;
    let stale = false;
    const pending = setTimeout(async () => {
      try {
        const answer = await ask(wanted);
        if (!stale) [found, error] = [answer, null];
      } catch (caught) {
        if (!stale) [found, error] = [keeps ? found : null, caught];
      }
    }, pause);
    return () => {
      stale = true;
      clearTimeout(pending);
    };
  });
  return {
    get found(): Found | null {
      return found;
    },
    get error(): unknown {
      return error;
    },
    /** Something else is looked at now: what was said is of no use any more. */
    forget(): void {
      [found, error] = [null, null];
    },
    /** Say what went wrong when it was done, where what is wrong with it is said too. */
    wrong(caught: unknown): void {
      error = caught;
    },
  };
}
