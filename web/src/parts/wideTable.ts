/** Write beside each value the head of its column, so that rows may be stacked; and keep what a screen reader
 * knows of a table, which a browser forgets of one that is drawn otherwise.
 */
export function headed(table: HTMLTableElement): void {
  const heads: string[] = [];
  for (const cell of table.tHead?.rows[table.tHead.rows.length - 1]?.cells ?? [])
    for (let i = 0; i < cell.colSpan; i += 1) heads.push(cell.colSpan === 1 ? words(cell) : "");
  table.setAttribute("role", "table");
  for (const group of table.querySelectorAll("thead, tbody, tfoot")) group.setAttribute("role", "rowgroup");
  for (const row of table.rows) {
    row.setAttribute("role", "row");
    let column = 0;
    for (const cell of row.cells) {
      const isHead = cell.tagName === "TH";
      cell.setAttribute("role", !isHead ? "cell" : cell.scope === "row" ? "rowheader" : "columnheader");
      if (!isHead && cell.colSpan === 1) cell.dataset.head = heads[column] ?? "";
      column += cell.colSpan;
    }
  }
}

/** What stands in a head for the eye: a line within it is a word of its own. */
const words = (cell: HTMLElement) => (cell.innerText || cell.textContent || "").replace(/\s+/g, " ").trim();
