import { expect, it } from "vitest";

import { sure } from "./sure";
import { headed } from "./wideTable";

it("writes the head of its column beside each value, and keeps what a screen reader knows of a table", () => {
  document.body.innerHTML = `<table><thead><tr><th scope="col">Treatment</th><th scope="col">Mean<br>cm</th></tr></thead>
    <tbody><tr><th scope="row">Tea</th><td>4</td></tr><tr><td colspan="2">all of them</td></tr></tbody></table>`;
  const table = sure(document.querySelector("table"));
  headed(table);
  const [value, across] = [...table.querySelectorAll("td")];
  expect(value?.dataset.head).toMatch(/^Mean ?cm$/);
  expect(across?.dataset.head).toBeUndefined();
  expect(table.getAttribute("role")).toBe("table");
  expect([...table.querySelectorAll("th")].map((one) => one.getAttribute("role"))).toEqual([
    "columnheader",
    "columnheader",
    "rowheader",
  ]);
});
