/** Levels over time and frequency as an image: paper where there is nothing, ink where it is loud. */

import { scaleLinear } from "d3-scale";

import type { Raster } from "../api/client";
import { rules } from "../api/rules";

const LIGHT = tonesOf(rules.charts.tones);
const DARK = tonesOf([
  [0, "#1a2227"],
  [60, "#27405c"],
  [130, "#4f82b8"],
  [200, "#8ab8f0"],
  [255, "#eaf3ff"],
]);

/** The colour of each of the 256 levels. */
function tonesOf(stops: [level: number, colour: string][]) {
  const tone = scaleLinear<string>(
    stops.map(([level]) => level),
    stops.map(([, colour]) => colour),
  );
  return Array.from({ length: 256 }, (_, level) => {
    const found = /(\d+), (\d+), (\d+)/.exec(tone(level));
    return [Number(found?.[1]), Number(found?.[2]), Number(found?.[3])] as const;
  });
}

const images = {
  light: new WeakMap<Raster, HTMLCanvasElement>(),
  dark: new WeakMap<Raster, HTMLCanvasElement>(),
};

/** The image of a raster, its lowest row at the bottom; painted once for each ground. */
export function rasterImage(raster: Raster, dark: boolean): HTMLCanvasElement {
  const painted = images[dark ? "dark" : "light"];
  const tones = dark ? DARK : LIGHT;
  const known = painted.get(raster);
  if (known) return known;
  const canvas = document.createElement("canvas");
  canvas.width = raster.columns;
  canvas.height = raster.rows;
  const context = canvas.getContext("2d");
  const image = new ImageData(raster.columns, raster.rows);
  const levels = Uint8Array.from(atob(raster.levels), (letter) => letter.charCodeAt(0));
  levels.forEach((level, place) => {
    const row = raster.rows - 1 - Math.floor(place / raster.columns);
    const at = 4 * (row * raster.columns + (place % raster.columns));
    image.data.set([...(tones[level] ?? [255, 255, 255]), 255], at);
  });
  context?.putImageData(image, 0, 0);
  painted.set(raster, canvas);
  return canvas;
}

/** The level in dB at a part of the width and a part of the height, from below. */
export function levelAt(raster: Raster, across: number, up: number): number {
  const column = Math.min(raster.columns - 1, Math.max(0, Math.floor(across * raster.columns)));
  const row = Math.min(raster.rows - 1, Math.max(0, Math.floor(up * raster.rows)));
  const level = byteAt(raster, row * raster.columns + column);
  return raster.low_db + (level / 255) * (raster.high_db - raster.low_db);
}

/** One byte of base64, without decoding the rest: three bytes stand in four letters. */
function byteAt(raster: Raster, place: number): number {
  const group = Math.floor(place / 3);
  return atob(raster.levels.slice(4 * group, 4 * group + 4)).charCodeAt(place % 3);
}
