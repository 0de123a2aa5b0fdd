/** CSV as a spreadsheet takes it from the clipboard: tabs between cells, a line a row. */
import { sure } from "@/parts/sure";
export function pasted(csv: string): string {
  const cells: string[][] = [[]];
  let cell = "";
  let quoted = false;
  const text = csv.replace(/^\uFEFF/, "").replace(/(\r?\n)+$/, "");
  for (let i = 0; i < text.length; i += 1) {
    const letter = sure(text[i]);
    if (quoted) {
      if (letter !== '"') cell += letter;
      else if (text[i + 1] === '"') {
        cell += '"';
        i += 1;
      } else quoted = false;
    } else if (letter === '"') quoted = true;
    else if (letter === ",") {
      sure(cells.at(-1)).push(cell);
      cell = "";
    } else if (letter === "\n") {
      sure(cells.at(-1)).push(cell);
      cells.push([]);
      cell = "";
    } else if (letter !== "\r") cell += letter;
  }
  sure(cells.at(-1)).push(cell);
  // A tab or a line end inside a cell would be taken for the end of it.
  return cells.map((row) => row.map((one) => one.replace(/[\t\r\n]+/g, " ")).join("\t")).join("\n");
}
