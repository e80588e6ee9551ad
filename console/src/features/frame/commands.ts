import type { Component } from "svelte";
import { api, sure, type Entry, type Named } from "../../lib/api";
import { within } from "../../lib/words";
import { t } from "../../lib/i18n";
import { present } from "../../lib/state/present.svelte";
import { session } from "../../lib/state/session.svelte";
import { navigate } from "../../router";
import { PLACES, setUpPlaces } from "./places";
import ArrowRightOutline from "flowbite-svelte-icons/ArrowRightOutline.svelte";
import CheckOutline from "flowbite-svelte-icons/CheckOutline.svelte";
import ClockOutline from "flowbite-svelte-icons/ClockOutline.svelte";
import FileLinesOutline from "flowbite-svelte-icons/FileLinesOutline.svelte";
import UserOutline from "flowbite-svelte-icons/UserOutline.svelte";

/** One line of the command box: what it is called, what is said beside it, and what choosing it does. */
export interface Command {
  group: "acts" | "entries" | "recent" | "people" | "pages";
  label: string;
  hint: string;
  icon: Component<{ class?: string }>;
  go: () => unknown;
}

/** The acts on an entry that can be typed, each with the words that it is known by. */
const ACTS = [
  "submit",
  "sign",
  "move-on",
  "release",
  "send-back",
  "take-back",
  "withdraw",
  "commission",
  "remove",
];
/** How many entries are asked what may be done with them, and how many people are named. */
const ASKED = 4;

const plain = (text: string): string => text.trim().toLocaleLowerCase();

/** An act that `text` begins with, and what is said after it. */
export function typedAct(text: string): { act: string; rest: string } | null {
  const said = plain(text);
  for (const act of ACTS) {
    for (const word of t(`commands.words.${act}`).split(";").map(plain))
      if (said === word || said.startsWith(`${word} `)) return { act, rest: said.slice(word.length).trim() };
  }
  return null;
}

function where(entry: { id: string; locale?: string }, act = ""): void {
  const locale = entry.locale ?? session.setup?.locales[0]?.tag ?? "en";
  void navigate("/entries/:id/:locale", {
    params: { id: entry.id, locale },
    search: act ? { act } : {},
  });
}

function mayDo(entry: Entry, act: string): boolean {
  if (act === "remove") return session.may("release");
  return entry.acts.find((one) => one.act === act)?.allowed ?? false;
}

function actsHere(wanted: string): Command[] {
  const entry = present.entry;
  if (!entry) return [];
  return ACTS.filter(
    (act) => mayDo(entry, act) && within(`${t(`entry.${act}`)} ${t(`commands.words.${act}`)}`, wanted),
  ).map((act) => ({
    group: "acts",
    label: t(`entry.${act}`),
    hint: entry.title || t("list.untitled"),
    icon: CheckOutline,
    go: () => present.begin(act),
  }));
}

function pages(wanted: string): Command[] {
  const all = [
    ...PLACES.map((one) => ({ to: one.to as string, key: one.key as string })),
    ...setUpPlaces(),
    { to: "/account", key: "account.title" },
  ];
  return all
    .filter((one) => within(t(one.key), wanted))
    .map((one) => ({
      group: "pages",
      label: t(one.key),
      hint: "",
      icon: ArrowRightOutline,
      go: () => navigate(one.to as "/"),
    }));
}

function general(wanted: string): Command[] {
  const may = session.may("write");
  return [{ key: "commands.start", go: () => navigate("/entries", { search: { start: "yes" } }) }]
    .filter((one) => may && within(t(one.key), wanted))
    .map((one) => ({ group: "acts", label: t(one.key), hint: "", icon: CheckOutline, go: one.go }));
}

function recent(wanted: string): Command[] {
  return present.recent
    .filter((one) => within(one.title, wanted))
    .filter((one) => one.id !== present.entry?.id || one.locale !== present.entry.locale)
    .slice(0, 5)
    .map((one) => ({
      group: "recent",
      label: one.title || t("list.untitled"),
      hint: [session.type(one.type)?.label, session.locale(one.locale)?.name].filter(Boolean).join(", "),
      icon: ClockOutline,
      go: () => where(one),
    }));
}

/** What can be said at once, without asking the service. */
export function known(text: string, people: { handle: string; name: string }[]): Command[] {
  const wanted = plain(text);
  const named = wanted
    ? people
        .filter((one) => within(`${one.name} ${one.handle}`, wanted))
        .slice(0, ASKED)
        .map((one): Command => ({
          group: "people",
          label: one.name,
          hint: t("commands.person"),
          icon: UserOutline,
          go: () => navigate("/entries", { search: { person: one.handle } }),
        }))
    : [];
  return [...actsHere(wanted), ...general(wanted), ...recent(wanted), ...named, ...pages(wanted)];
}

async function lookUp(text: string): Promise<Named[]> {
  return (await sure(api.GET("/api/entries/lookup", { params: { query: { text } } }))).items;
}

/** What the service finds: entries that are called so, and a typed act on them where it is allowed. */
export async function found(text: string): Promise<Command[]> {
  const wanted = text.trim();
  if (!wanted) return [];
  const typed = typedAct(wanted);
  const entries = (await lookUp(wanted)).map((one): Command => ({
    group: "entries",
    label: one.title || t("list.untitled"),
    hint: session.type(one.type)?.label ?? "",
    icon: FileLinesOutline,
    go: () => where(one),
  }));
  if (!typed?.rest) return entries;
  const locale = session.setup?.locales[0]?.tag ?? "en";
  const asked = (await lookUp(typed.rest)).slice(0, ASKED);
  const states = await Promise.all(
    asked.map((one) =>
      sure(api.GET("/api/entries/{id}/{locale}", { params: { path: { id: one.id, locale } } })).catch(
        () => null,
      ),
    ),
  );
  const acts = states
    .filter((entry): entry is Entry => entry !== null)
    .map((entry): Command => {
      const may = mayDo(entry, typed.act);
      const why = entry.acts.find((one) => one.act === typed.act)?.why ?? "";
      return {
        group: "acts",
        label: t("commands.actOn", { act: t(`entry.${typed.act}`).replace(/…$/, ""), title: entry.title }),
        hint: may ? "" : why || t("commands.notAllowed"),
        icon: CheckOutline,
        go: () => where(entry, may ? typed.act : ""),
      };
    });
  // What can be done stands before what cannot, and why not.
  return [...acts.filter((one) => !one.hint), ...acts.filter((one) => one.hint), ...entries];
}
