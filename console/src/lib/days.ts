/* Days, wall times and the instants at which they come in a time zone: written as in `dates.ts`. */

/** The day that it is in a time zone. */
export function todayIn(zone: string | undefined, now: Date = new Date()): string {
  return new Intl.DateTimeFormat("en-CA", { timeZone: zone, dateStyle: "short" }).format(now);
}

/** The instant at which a wall time comes in a time zone; where the clock jumps over it, the one after. */
export function instantIn(zone: string | undefined, wall: string): Date {
  const utc = new Date(`${wall.length > 10 ? wall : `${wall}T00:00`}Z`);
  // What a clock there shows at an instant, read as if it were UTC, differs from it by the offset; twice, as that may be another then.
  const offset = (at: Date) => new Date(`${wallIn(zone, at)}Z`).getTime() - at.getTime();
  const first = new Date(utc.getTime() - offset(utc));
  return new Date(utc.getTime() - offset(first));
}

/** The wall time that it is in a time zone, to the minute. */
export function wallIn(zone: string | undefined, at: Date): string {
  const time = new Intl.DateTimeFormat("en-GB", { timeZone: zone, timeStyle: "short" }).format(at);
  return `${todayIn(zone, at)}T${time}`;
}

/** A day so many days or months on; a month ends where it ends, so that a month after 31 January is the last of February. */
export function later(day: string, { days = 0, months = 0 }: { days?: number; months?: number }): string {
  const at = new Date(`${day}T00:00:00Z`);
  if (months) {
    const wanted = at.getUTCDate();
    at.setUTCDate(1);
    at.setUTCMonth(at.getUTCMonth() + months);
    const last = new Date(Date.UTC(at.getUTCFullYear(), at.getUTCMonth() + 1, 0)).getUTCDate();
    at.setUTCDate(Math.min(wanted, last));
  }
  at.setUTCDate(at.getUTCDate() + days);
  return at.toISOString().slice(0, 10);
}
