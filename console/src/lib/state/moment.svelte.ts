const KEY = "hawthorn:at";

/** The instant at which the console stands: now, or another one. There everything is looked at, and nothing is changed. */
class Moment {
  /** The instant in UTC (RFC 3339), past or to come; empty for now. */
  at = $state(sessionStorage.getItem(KEY) ?? "");

  /** Stand at another instant; an empty one is now. */
  go(at: string): void {
    this.at = at;
    if (at) sessionStorage.setItem(KEY, at);
    else sessionStorage.removeItem(KEY);
  }
}

export const moment = new Moment();
