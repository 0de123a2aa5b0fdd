import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";

import { keepFocus, nearest } from "./keepFocus";
import { sure } from "@/parts/sure";

const make = (html: string) => (document.body.innerHTML = `<div id="content">${html}</div>`);
const at = (selector: string) => sure(document.querySelector<HTMLElement>(selector));

describe("the focus", () => {
  beforeAll(keepFocus);
  beforeEach(() => void vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] }));
  afterEach(() => void vi.useRealTimers());
  const moment = async () => {
    await flushPromises();
    await vi.advanceTimersByTimeAsync(200);
  };

  it("goes to the heading of what a thing stood in, when that is gone", async () => {
    make("<h1>Page</h1><section><h2>Rows</h2><button id='out'>Take out</button></section>");
    at("#out").focus();
    at("#out").remove();
    await moment();
    expect(document.activeElement?.textContent).toBe("Rows");
  });

  it("goes to the page's heading, when all around it is gone", async () => {
    make("<h1>Page</h1><section><button id='out'>Begin</button></section>");
    at("#out").focus();
    at("section").remove();
    await moment();
    expect(document.activeElement?.tagName).toBe("H1");
  });

  it("comes back to a button that was at rest while something was kept", async () => {
    make("<h1>Page</h1><button id='keep'>Keep</button>");
    const button = sure(document.querySelector("button"));
    button.focus();
    // A browser lets go of a button at rest by itself.
    button.blur();
    button.disabled = true;
    await moment();
    expect(document.activeElement).toBe(document.body);
    button.disabled = false;
    await moment();
    expect(document.activeElement).toBe(button);
  });

  it("is left alone where somebody has put it", async () => {
    make("<h1>Page</h1><button id='out'>Out</button><input id='field' />");
    at("#out").focus();
    at("#field").focus();
    at("#out").remove();
    await moment();
    expect(document.activeElement?.id).toBe("field");
  });

  it("goes to the first field of what was added", async () => {
    make("<input id='old' /><button id='add' data-adds>Add</button>");
    at("#add").addEventListener("click", () =>
      at("#old").insertAdjacentHTML("afterend", "<input id='new' />"),
    );
    at("#add").click();
    await moment();
    expect(document.activeElement?.id).toBe("new");
  });

  it("finds no place where nothing is", () => {
    make("");
    expect(nearest([])).toBeNull();
  });
});
