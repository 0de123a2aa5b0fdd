/** The boards that tags are laid out on: a block, a square or a whole plot each, in rows and columns where
 * there are any.
 */
import { sure } from "@/parts/sure";
import type { Schemas } from "@/shell/api/client";

type Tag = Schemas["TagOut"];
type Course = Pick<Schemas["CourseOut"], "blocks" | "layout" | "plot_word">;

export interface Board {
  key: string;
  name: string;
  note: string;
  /** Columns of its grid; 0 where tags simply follow each other. */
  columns: number;
  tags: Tag[];
}

export function boardsOf(tags: Tag[], course: Course): Board[] {
  const blocks = new Map(course.blocks.map((block) => [block.key, block]));
  const byPlot = course.layout === "latin" || course.layout === "split";
  const groups = new Map<string, Tag[]>();
  for (const tag of tags) {
    const key = byPlot ? String(tag.plot) : tag.block;
    const own = groups.get(key);
    if (own) own.push(tag);
    else groups.set(key, [tag]);
  }
  if (!groups.size) return [{ key: "", name: "", note: "", columns: 0, tags: [] }];
  return [...groups].map(([key, own]) => {
    const block = blocks.get(sure(own[0]).block);
    const plot = `${course.plot_word.charAt(0).toUpperCase()}${course.plot_word.slice(1)} ${key}`;
    const square = groups.size > 1 ? `Square ${key}` : "";
    const laid =
      course.layout !== "pairs" && course.layout !== "split" && own.every((tag) => tag.row && tag.column);
    return {
      key,
      name: course.layout === "split" ? plot : course.layout === "latin" ? square : (block?.name ?? ""),
      note: (course.layout === "split" ? block?.name : block?.note) ?? "",
      columns: course.layout === "pairs" ? 2 : laid ? Math.max(...own.map((tag) => sure(tag.column))) : 0,
      tags: own,
    };
  });
}
