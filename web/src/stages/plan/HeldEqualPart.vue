<script setup lang="ts">
/** Everything kept the same for all samples, with its setting. */
import PlanRow from "./PlanRow.vue";
import PlanText from "./PlanText.vue";
import { newKey } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import TakeOut from "@/parts/TakeOut.vue";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const USUAL = ["Vessel", "Amount", "Base batch", "Water", "Place", "Light", "Temperature", "Tool", "Hands"];
const add = (what = "") => plan.value.held_equal.push({ key: newKey(), what, setting: "" });
const missing = () =>
  USUAL.filter(
    (one) => !plan.value.held_equal.some((entry) => entry.what.trim().toLowerCase() === one.toLowerCase()),
  );
</script>

<template>
  <PlanRow title="Held equal" hint="the same for every sample; ticked when they are prepared">
    <ul class="grid gap-2">
      <li
        v-for="(entry, i) in plan.held_equal"
        :key="entry.key"
        class="grid grid-cols-[minmax(0,1fr)_44px] items-start gap-2 sm:grid-cols-[11rem_minmax(0,1fr)_44px]"
      >
        <PlanText
          v-model="entry.what"
          :at="`held_equal.${i}.what`"
          :label="`Thing ${i + 1} held equal`"
          placeholder="Vessel"
          :work="work"
        />
        <PlanText
          v-model="entry.setting"
          class="max-sm:col-start-1"
          :at="`held_equal.${i}.setting`"
          :label="`Setting of ${entry.what || 'it'}`"
          placeholder="its setting: jam jar, 300 mL"
          :work="work"
        />
        <TakeOut
          class="max-sm:col-start-2 max-sm:row-start-1"
          :what="entry.what || 'this thing'"
          @out="plan.held_equal.splice(i, 1)"
        />
      </li>
    </ul>
    <div class="mt-3 flex flex-wrap gap-2">
      <button type="button" class="press press-small" data-adds @click="add()">Add a thing</button>
      <button v-for="one in missing()" :key="one" type="button" class="quiet" @click="add(one)">
        {{ one }}
      </button>
    </div>
    <p class="mt-3 max-w-xl text-soft">
      A difference that is found later is recorded as a deviation, and limits what the verdict may claim.
    </p>
  </PlanRow>
</template>
