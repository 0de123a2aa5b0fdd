<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Levels of a grade, lowest first, each with the sentence that anchors it; half levels put in or taken out
 * at
 * once.
 */
import { computed } from "vue";

import PlanText from "./PlanText.vue";
import type { Scale } from "./fresh";
import type { PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";

const scale = defineModel<Extract<Scale, { kind: "grade" }>>({ required: true });
const props = defineProps<{ at: string; work: PlanAtWork }>();
const isHalf = (label: string) => label.includes("½");
const halved = computed(() => scale.value.levels.some((level) => isHalf(level.label)));
const wrong = (i: number) => props.work.says(`${props.at}.levels.${i}.value`);
function add(): void {
  const last = scale.value.levels.at(-1)?.value ?? -1;
  const next = Math.floor(last) + 1;
  if (halved.value && scale.value.levels.length)
    scale.value.levels.push({ value: next - 0.5, label: `${next - 1 || ""}½`, anchor: "" });
  scale.value.levels.push({ value: next, label: String(next), anchor: "" });
}
function halve(wanted: boolean): void {
  const whole = scale.value.levels.filter((level) => !isHalf(level.label));
  scale.value.levels = whole.flatMap((level, i) =>
    wanted && i < whole.length - 1
      ? [
          level,
          {
            value: (level.value + sure(whole[i + 1]).value) / 2,
            label: `${level.label === "0" ? "" : level.label}½`,
            anchor: "",
          },
        ]
      : [level],
  );
}
</script>

<template>
  <div>
    <div class="flex flex-wrap items-center justify-between gap-x-4">
      <span class="text-[0.9rem] text-soft">Levels, and when each is given</span>
      <label class="flex min-h-11 items-center gap-2"
        ><input
          type="checkbox"
          class="h-5 w-5 accent-ink"
          :checked="halved"
          @change="halve(($event.target as HTMLInputElement).checked)"
        />
        with halves</label
      >
    </div>
    <ul class="grid gap-1.5">
      <li v-for="(level, i) in scale.levels" :key="i" class="grid grid-cols-[4rem_1fr_44px] gap-1.5">
        <PlanText
          v-model="level.label"
          :at="`${at}.levels.${i}.label`"
          :label="`Label of level ${i + 1}`"
          :work="work"
        />
        <PlanText
          v-model="level.anchor"
          :at="`${at}.levels.${i}.anchor`"
          :label="`Anchor of level ${i + 1}`"
          :placeholder="isHalf(level.label) ? 'between the two' : 'what it looks like'"
          :work="work"
        />
        <TakeOut :what="`level ${level.label}`" @out="scale.levels.splice(i, 1)" />
        <ProblemText class="col-span-3" :says="wrong(i)" />
      </li>
    </ul>
    <button type="button" class="press press-small mt-2" data-adds @click="add">Add a level above</button>
    <ProblemText :says="work.says(`${at}.levels`)" />
  </div>
</template>
