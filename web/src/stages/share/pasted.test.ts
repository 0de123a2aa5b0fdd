import { describe, expect, it } from "vitest";

import { pasted } from "./pasted";

describe("a table for the clipboard", () => {
  it("has tabs between its cells and no mark of its encoding", () => {
    expect(pasted("\uFEFFsample,value\r\n742,3.5\r\n")).toBe("sample\tvalue\n742\t3.5");
  });
  it("keeps empty cells in their places", () => {
    expect(pasted("a,,c\r\n,,\r\n")).toBe("a\t\tc\n\t\t");
  });
  it("reads commas, quotes and line ends inside quotes as part of the cell", () => {
    expect(pasted('reason,n\r\n"fell, and broke",1\r\n"the ""good"" one",2\r\n"two\r\nlines",3')).toBe(
      'reason\tn\nfell, and broke\t1\nthe "good" one\t2\ntwo lines\t3',
    );
  });
  it("lets no tab inside a cell move what follows", () => {
    expect(pasted('"a\tb",c')).toBe("a b\tc");
  });
});
