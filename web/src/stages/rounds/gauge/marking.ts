/** Marks on a photo: how they are drawn, moved and made larger.  Points are shares of the photo, 0–1. */
import { sure } from "@/parts/sure";
import type { Schemas } from "@/shell/api/client";

export type Region = Schemas["Region"];
export type Marks = Schemas["Marks"];
export type Point = [number, number];

const held = (value: number) => Math.min(1, Math.max(0, value));

/** The round mark that fills the box between two corners; a bare tap makes none. */
export function round(from: Point, to: Point): Region | null {
  if (Math.abs(from[0] - to[0]) < 0.01 || Math.abs(from[1] - to[1]) < 0.01) return null;
  return {
    kind: "ellipse",
    points: [
      [Math.min(from[0], to[0]), Math.min(from[1], to[1])],
      [Math.max(from[0], to[0]), Math.max(from[1], to[1])],
    ],
  };
}

/** The same as a box of four points. */
export function box(from: Point, to: Point): Region | null {
  const found = round(from, to);
  if (!found) return null;
  const [[left, top], [right, bottom]] = found.points as [Point, Point];
  return {
    kind: "polygon",
    points: [
      [left, top],
      [right, top],
      [right, bottom],
      [left, bottom],
    ],
  };
}

/** A mark moved by a share of the photo, as far as it stays inside. */
export function moved(region: Region, across: number, down: number): Region {
  const xs = region.points.map((point) => sure(point[0]));
  const ys = region.points.map((point) => sure(point[1]));
  const dx = Math.min(Math.max(across, -Math.min(...xs)), 1 - Math.max(...xs));
  const dy = Math.min(Math.max(down, -Math.min(...ys)), 1 - Math.max(...ys));
  return { ...region, points: region.points.map(([x, y]) => [sure(x) + dx, sure(y) + dy]) };
}

/** A mark made larger (or smaller) around its middle. */
export function grown(region: Region, factor: number): Region {
  const xs = region.points.map((point) => sure(point[0]));
  const ys = region.points.map((point) => sure(point[1]));
  const x = (Math.min(...xs) + Math.max(...xs)) / 2;
  const y = (Math.min(...ys) + Math.max(...ys)) / 2;
  return {
    ...region,
    points: region.points.map(([px, py]) => [
      held(x + (sure(px) - x) * factor),
      held(y + (sure(py) - y) * factor),
    ]),
  };
}

/** A mark as an SVG path, in units of a photo of this width and height. */
export function drawn(region: Region, width: number, height: number): string {
  if (region.kind === "ellipse") {
    const [[left, top], [right, bottom]] = region.points as [Point, Point];
    const rx = ((right - left) / 2) * width;
    const ry = ((bottom - top) / 2) * height;
    const y = ((top + bottom) / 2) * height;
    return `M${left * width} ${y}a${rx} ${ry} 0 1 0 ${2 * rx} 0a${rx} ${ry} 0 1 0 ${-2 * rx} 0z`;
  }
  return `M${region.points.map(([x, y]) => `${sure(x) * width} ${sure(y) * height}`).join("L")}z`;
}
