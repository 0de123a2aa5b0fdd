import { mount } from "@vue/test-utils";
import { expect, it } from "vitest";
import { defineComponent, h, ref } from "vue";

import DurationField from "./DurationField.vue";
import NumberField from "./NumberField.vue";
import NumbersField from "./NumbersField.vue";

/** A field before a value; what is typed, what is kept then, and whether it says that it did not take it. */
function typing(field: unknown, first: unknown, props: Record<string, unknown> = {}) {
  const kept = ref(first);
  const page = mount(
    defineComponent(
      () => () =>
        h(field as typeof NumberField, {
          label: "It",
          ...props,
          modelValue: kept.value as number,
          "onUpdate:modelValue": (value: unknown) => (kept.value = value),
        }),
    ),
  );
  return async (text: string) => {
    await page.get("input").setValue(text);
    return [kept.value, page.find("[data-unkept]").exists()];
  };
}

it("keeps what stands in the field, or marks it as not kept: one number", async () => {
  const type = typing(NumberField, 3, { whole: true, needed: true });
  expect(await type("8.5")).toEqual([3, true]);
  expect(await type("")).toEqual([3, true]);
  expect(await type("8")).toEqual([8, false]);
});

it("keeps what stands in the field, or marks it as not kept: several numbers", async () => {
  const type = typing(NumbersField, [1, 2]);
  expect(await type("5, 1o")).toEqual([[1, 2], true]);
  expect(await type("5, 10")).toEqual([[5, 10], false]);
});

it("keeps what stands in the field, or marks it as not kept: a span of time", async () => {
  const type = typing(DurationField, 120);
  expect(await type("")).toEqual([120, true]);
  expect(await type("two")).toEqual([120, true]);
  expect(await type("0.33")).toEqual([120, true]);
  expect(await type("1,5")).toEqual([90, false]);
});
