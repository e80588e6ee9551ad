import type { CropSpec } from "./api";

/** The part of a picture that a crop keeps, as the service cuts it: left, top, width and height in its pixels. */
export function cut(
  crop: Pick<CropSpec, "width" | "height">,
  width: number,
  height: number,
  x: number,
  y: number,
): { left: number; top: number; width: number; height: number } {
  if (!crop.height) return { left: 0, top: 0, width, height };
  const shape = crop.width / crop.height;
  const wide = Math.min(width, Math.max(1, Math.round(height * shape)));
  const high = Math.min(height, Math.max(1, Math.round(width / shape)));
  const left = Math.min(Math.max(Math.round((width * x) / 100 - wide / 2), 0), width - wide);
  const top = Math.min(Math.max(Math.round((height * y) / 100 - high / 2), 0), height - high);
  return { left, top, width: wide, height: high };
}
