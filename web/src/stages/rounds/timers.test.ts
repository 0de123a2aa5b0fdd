import "fake-indexeddb/auto";
import { flushPromises, mount } from "@vue/test-utils";
import { afterEach, expect, it, vi } from "vitest";
import { defineComponent, h } from "vue";

import TimerStrip from "./TimerStrip.vue";
import { left, useTimers, type TimersAtWork } from "./useTimers";

function running(alarm: () => void) {
  let timers!: TimersAtWork;
  const page = mount(
    defineComponent({ setup: () => ((timers = useTimers("t", alarm)), () => h(TimerStrip, { timers })) }),
  );
  return { page, timers };
}
afterEach(() => vi.useRealTimers());

it("tells what is left as people read it", () => {
  expect([left(125_000), left(59_001), left(-5)]).toEqual(["2:05", "1:00", "0:00"]);
});

it("runs several at once, rings each once, and goes on after a reload", async () => {
  vi.useFakeTimers({ toFake: ["Date", "setInterval", "clearInterval"] });
  const alarm = vi.fn();
  const first = running(alarm);
  await first.timers.begin("412", 2, "tilt, then look");
  await first.timers.begin("873", 1, "");
  vi.advanceTimersByTime(61_000);
  await flushPromises();
  expect(alarm).toHaveBeenCalledTimes(1);
  expect(first.page.findAll("li").map((one) => one.text())).toEqual(["873time is upDone", "4120:59Stop"]);
  first.page.unmount();

  const second = running(alarm);
  await vi.waitFor(() => expect(second.timers.timers.value).toHaveLength(2));
  vi.advanceTimersByTime(60_000);
  await flushPromises();
  expect(alarm).toHaveBeenCalledTimes(2);
  expect(second.page.text()).toContain("412tilt, then look");
  await second.page.find("[aria-label='Done with the timer of 412']").trigger("click");
  await flushPromises();
  expect(second.timers.timers.value.map((one) => one.code)).toEqual(["873"]);
  second.page.unmount();
});
