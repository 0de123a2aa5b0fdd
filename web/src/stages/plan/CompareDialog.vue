<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Three designs side by side: as planned, and two others to weigh against it. */
import { onMounted, reactive, ref } from "vue";

import { block } from "./fresh";
import type { Outlook, Plan } from "./usePlan";
import DialogSheet from "@/parts/DialogSheet.vue";
import NumberField from "@/parts/NumberField.vue";
import { honest } from "@/parts/amounts";
import { answer, api } from "@/shell/api/client";
import type { Noun } from "@/parts/nouns";
import WideTable from "@/parts/WideTable.vue";

interface Design {
  name: string;
  samples: number;
  blocks: number;
  left: number;
  outlook: Outlook | null;
  busy: boolean;
}
const props = defineProps<{ plan: Plan; sample: Noun; advised: number | null }>();
const emit = defineEmits<{ take: [plan: Plan]; close: [] }>();
const now = Math.max(...props.plan.treatments.map((one) => one.samples));
const blocks = props.plan.layout.kind === "blocks" ? props.plan.layout.blocks.length : 1;
const blocked = props.plan.layout.kind === "random" || props.plan.layout.kind === "blocks";
const step = props.plan.layout.kind === "latin" ? props.plan.treatments.length : 1;
const unit =
  props.plan.layout.kind === "split"
    ? "whole plots of each level"
    : props.plan.layout.kind === "pairs"
      ? "pairs"
      : "of each";
const first = props.plan.layout.kind === "split" ? props.plan.layout.whole_plots : now;
const make = (name: string, samples: number, left = props.plan.treatments.length): Design => ({
  name,
  samples,
  blocks,
  left,
  outlook: null,
  busy: true,
});
const designs = reactive<Design[]>([
  make("As planned", first),
  make("With more", props.advised ?? first + step),
  props.plan.treatments.length > 2
    ? make(
        "With one treatment less",
        Math.floor((first * props.plan.treatments.length) / (props.plan.treatments.length - 1) / step) *
          step || step,
        props.plan.treatments.length - 1,
      )
    : make("With twice as many", 2 * first),
]);
const timers = ref<number[]>([]);

/** The plan as this design would have it. */
function planOf(design: Design): Plan {
  const plan = JSON.parse(JSON.stringify(props.plan)) as Plan;
  if (plan.layout.kind === "split") plan.layout.whole_plots = design.samples;
  else if (design !== designs[0]) for (const one of plan.treatments) one.samples = design.samples;
  plan.treatments.splice(design.left);
  if (plan.layout.kind === "latin")
    for (const one of plan.treatments)
      one.samples = Math.max(1, Math.round(one.samples / plan.treatments.length)) * plan.treatments.length;
  if (blocked && design !== designs[0]) {
    plan.layout.kind = design.blocks > 1 ? "blocks" : "random";
    plan.layout.blocks.splice(design.blocks);
    while (design.blocks > 1 && plan.layout.blocks.length < design.blocks)
      plan.layout.blocks.push({ ...block(), name: `Place ${plan.layout.blocks.length + 1}` });
  }
  return plan;
}
async function ask(i: number): Promise<void> {
  const design = sure(designs[i]);
  design.busy = true;
  try {
    design.outlook = (
      await answer(
        api.POST("/api/outlook", {
          body: { plan: planOf(design), predictions: 0, sealed: false, part: "whole" },
        }),
      )
    ).outlook;
  } catch {
    design.outlook = null;
  }
  design.busy = false;
}
function later(i: number): void {
  window.clearTimeout(timers.value[i]);
  timers.value[i] = window.setTimeout(() => void ask(i), 250);
}
onMounted(() => designs.forEach((_, i) => void ask(i)));
function take(design: Design): void {
  emit("take", planOf(design));
  emit("close");
}
const percent = (share: number) => Math.round(100 * share);
const unitOf = (outlook: Outlook, value: number) =>
  outlook.unit === "share"
    ? `${honest(100 * value, 2)} points`
    : [honest(value), outlook.unit].filter(Boolean).join(" ");
const money = (outlook: Outlook) =>
  outlook.cost === null
    ? "unknown"
    : `${outlook.unpriced.length ? "more than " : ""}${props.plan.money}${outlook.cost.toFixed(2)}`;
const ROWS: { name: string; of: (outlook: Outlook) => string }[] = [
  { name: "names the right one", of: (one) => `${percent(one.shares.right)} in 100` },
  { name: "names none", of: (one) => `${percent(one.shares.none)} in 100` },
  { name: "names a wrong one", of: (one) => `${percent(one.shares.wrong)} in 100` },
  { name: "smallest p", of: (one) => honest(one.smallest_p, 2) },
  {
    name: "lead found 8 times in 10",
    of: (one) => (one.found_8_in_10 === null ? "none" : unitOf(one, one.found_8_in_10)),
  },
  { name: `${props.sample.many} in all`, of: (one) => String(one.samples) },
  { name: "they cost", of: money },
];
</script>

<template>
  <DialogSheet :open="true" title="Three designs side by side" wide @close="emit('close')">
    <WideTable class="mt-3">
      <table class="figures min-w-[34rem]">
        <thead>
          <tr>
            <td />
            <th v-for="design in designs" :key="design.name" scope="col">{{ design.name }}</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">{{ unit }}</th>
            <td v-for="(design, i) in designs" :key="design.name">
              <span v-if="i === 0">{{ design.samples }}</span>
              <NumberField
                v-else
                :model-value="design.samples"
                :label="`${design.name}, ${unit}`"
                hide-label
                whole
                needed
                class="w-24"
                @update:model-value="
                  (n) => {
                    if (n !== null) {
                      design.samples = n;
                      later(i);
                    }
                  }
                "
              />
            </td>
          </tr>
          <tr v-if="blocked">
            <th scope="row">blocks</th>
            <td v-for="(design, i) in designs" :key="design.name">
              <span v-if="i === 0">{{ design.blocks === 1 ? "none" : design.blocks }}</span>
              <select
                v-else
                v-model.number="design.blocks"
                class="field w-24"
                :aria-label="`${design.name}, blocks`"
                @change="later(i)"
              >
                <option :value="1">none</option>
                <option v-for="n in [2, 3, 4, 5, 6]" :key="n" :value="n">{{ n }}</option>
              </select>
            </td>
          </tr>
          <tr v-for="row in ROWS" :key="row.name">
            <th scope="row">{{ row.name }}</th>
            <td
              v-for="design in designs"
              :key="design.name"
              class="font-bold"
              :class="{ 'opacity-50': design.busy }"
            >
              {{ design.outlook ? row.of(design.outlook) : design.busy ? "…" : "cannot be laid out" }}
            </td>
          </tr>
          <tr>
            <td />
            <td v-for="(design, i) in designs" :key="design.name">
              <button
                v-if="i"
                type="button"
                class="press press-small"
                :disabled="!design.outlook"
                :aria-label="`Take: ${design.name}`"
                @click="take(design)"
              >
                Take it
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </WideTable>
    <button class="press mt-4" @click="emit('close')">Keep the plan as it is</button>
  </DialogSheet>
</template>
