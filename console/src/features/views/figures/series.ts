import "../../../messages/figures";
import { t } from "../../../lib/i18n";

/** Numbers by week under one name; null where there is none. */
export interface Series {
  name: string;
  values: (number | null)[];
  /** Shows what the number of a week stands for; nothing where it stands for no entries. */
  onChoose?: (week: number) => void;
}

export type FigureKind = "stay" | "reviewed" | "sent-back" | "release" | "following" | "waiting";

/** Which entries are behind a number: of a kind, at a stage, in a week. */
export interface Wanted {
  title: string;
  figure: FigureKind;
  stage?: string;
  week?: string;
}

/** Not the berry: that waits for somebody, and nothing else does. */
const COLOURS = ["hedge", "slate", "straw", "moss", "ink"];
const POINTS = ["circle", "rect", "triangle", "rectRot", "star", "crossRot"] as const;
const DASHES = [[], [6, 3], [2, 3], [10, 3, 2, 3], [4, 4], [1, 4]];

/** What tells one series from the others, with colour and without. */
export function marks(kind: "line" | "bar", n: number, colour: (name: string) => string) {
  const mine = colour(COLOURS[n % COLOURS.length]!);
  if (kind === "bar")
    return { backgroundColor: n % 2 ? hatched(mine) : mine, borderColor: mine, borderWidth: 1 };
  return {
    borderColor: mine,
    backgroundColor: mine,
    pointStyle: POINTS[n % POINTS.length],
    borderDash: DASHES[n % DASHES.length],
    borderWidth: 2,
    pointRadius: 4,
    pointHoverRadius: 6,
    spanGaps: true,
  };
}

function hatched(colour: string): CanvasPattern | string {
  const tile = document.createElement("canvas");
  tile.width = tile.height = 6;
  const pen = tile.getContext("2d");
  if (!pen) return colour;
  pen.strokeStyle = colour;
  pen.lineWidth = 1.5;
  pen.beginPath();
  for (const from of [-6, 0, 6]) {
    pen.moveTo(from, 6);
    pen.lineTo(from + 6, 0);
  }
  pen.stroke();
  return pen.createPattern(tile, "repeat") ?? colour;
}

const DAY = 86_400;
const HOUR = 3_600;
const MINUTE = 60;

/** The unit that suits a length of time, and how many seconds it has. */
const unit = (seconds: number): [key: string, length: number] =>
  seconds >= DAY ? ["days", DAY] : seconds >= HOUR ? ["hours", HOUR] : ["minutes", MINUTE];

/** A length of time as a person says it, in the unit that suits it. */
export function span(seconds: number | null | undefined): string {
  if (seconds === null || seconds === undefined) return "–";
  if (seconds < MINUTE / 2) return t("figures.span.short");
  const [key, length] = unit(seconds);
  const count = seconds / length;
  return t(`figures.span.${key}`, {
    count: length === MINUTE ? Math.round(count) : Math.round(count * 10) / 10,
  });
}

/** The step of a scale of lengths of time: whole days, hours or minutes, about four of which lead to the longest. */
export function step(series: Series[]): number {
  const longest = Math.max(0, ...series.flatMap((one) => one.values.map((value) => value ?? 0)));
  const [, length] = unit(longest / 2);
  return Math.max(1, Math.ceil(longest / 4 / length)) * length;
}

export const plain = (count: number | null | undefined): string =>
  count === null || count === undefined ? "–" : Number.isInteger(count) ? String(count) : "";

export const percent = (share: number | null | undefined): string =>
  share === null || share === undefined ? "–" : t("figures.percent", { share });
