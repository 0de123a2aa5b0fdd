import { QueryClient, VueQueryPlugin, useQuery } from "@tanstack/vue-query";
import { flushPromises, mount } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, h } from "vue";

import { keys } from "./queryKeys";
import WaitingHere from "./frame/WaitingHere.vue";
import { patiently, QUIET } from "./patience";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

function shown(load?: () => Promise<string>) {
  const client = new QueryClient();
  const page = defineComponent({
    setup() {
      if (load) useQuery({ queryKey: keys.me(), queryFn: load });
      return () => h(WaitingHere);
    },
  });
  return mount(page, { global: { plugins: [[VueQueryPlugin, { queryClient: client }]] } });
}
const after = (ms: number) => new Promise<string>((done) => setTimeout(() => done("there"), ms));

describe("waiting", () => {
  it("shows nothing of a step that is shorter than a moment", async () => {
    const page = shown(() => after(QUIET - 50));
    await vi.advanceTimersByTimeAsync(QUIET - 60);
    expect(page.text()).toBe("");
    await vi.advanceTimersByTimeAsync(500);
    expect(page.text()).toBe("");
  });

  it("is said after that, until the answer is there, and says nothing of the trial", async () => {
    const page = shown(() => after(2_000));
    await vi.advanceTimersByTimeAsync(QUIET + 10);
    expect(page.text()).toBe("One moment …");
    await vi.advanceTimersByTimeAsync(2_000);
    expect(page.text()).toBe("");
  });

  it("counts what is loaded without a query, whether it comes or not", async () => {
    const page = shown();
    const first = patiently(after(1_000));
    const second = patiently(after(400).then(() => Promise.reject(new Error("no")))).catch(() => "");
    await vi.advanceTimersByTimeAsync(QUIET + 10);
    expect(page.text()).toBe("One moment …");
    await vi.advanceTimersByTimeAsync(1_000);
    await Promise.all([first, second]);
    await flushPromises();
    expect(page.text()).toBe("");
  });
});
