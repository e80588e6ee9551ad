import "../../messages/release";
import { t } from "../../lib/i18n";

/** How often something comes again that is chosen from a list, and the rule (RFC 5545) that says so; any other rule is typed. */
export const RULES: Record<string, string> = {
  once: "",
  daily: "FREQ=DAILY",
  workdays: "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR",
  weekly: "FREQ=WEEKLY",
  monthly: "FREQ=MONTHLY",
  yearly: "FREQ=YEARLY",
};

/** How often a rule comes, in words; a rule that is not in the list as it is written. */
export function often(rule: string): string {
  const known = Object.entries(RULES).find(([, one]) => one === rule);
  return known ? t(`rules.${known[0]}`) : rule;
}
