<script setup lang="ts">
/** A scale: levels with the sentence that anchors each, a unit with its range, what is counted, or two words. */
import PlanText from "./PlanText.vue";
import type { Outcome, PlanAtWork } from "./usePlan";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";

const scale = defineModel<Outcome["scale"]>({ required: true });
const props = defineProps<{ at: string; work: PlanAtWork }>();
const says = (part: string) => props.work.says(`${props.at}.${part}`);
function addLevel(): void {
  if (scale.value.kind !== "grade") return;
  const next = (scale.value.levels.at(-1)?.value ?? -1) + 1;
  scale.value.levels.push({ value: next, label: String(next), anchor: "" });
}
</script>

<template>
  <div v-if="scale.kind === 'grade'">
    <span class="mb-1 block text-[0.9rem] text-soft">Levels, and when each is given</span>
    <ul class="grid gap-1.5">
      <li v-for="(level, i) in scale.levels" :key="i" class="grid grid-cols-[4rem_1fr_44px] gap-1.5">
        <PlanText v-model="level.label" :at="`${at}.levels.${i}.label`" :label="`Label of level ${i + 1}`" :work="work" />
        <PlanText v-model="level.anchor" :at="`${at}.levels.${i}.anchor`" :label="`Anchor of level ${i + 1}`" placeholder="what it looks like" :work="work" />
        <button type="button" class="grid h-[46px] w-11 place-items-center text-[1.4rem]" :aria-label="`Take out level ${level.label}`" @click="scale.levels.splice(i, 1)">×</button>
      </li>
    </ul>
    <button type="button" class="press press-small mt-2" @click="addLevel">Add a level above</button>
    <ProblemText :says="says('levels')" />
  </div>
  <div v-else-if="scale.kind === 'measurement'" class="grid grid-cols-2 gap-3 sm:grid-cols-4">
    <div>
      <span class="mb-1 block text-[0.9rem] text-soft">Unit</span>
      <PlanText v-model="scale.unit" :at="`${at}.unit`" label="Unit" placeholder="mL" :work="work" />
    </div>
    <NumberField v-model="scale.resolution" label="Finest step" :says="says('resolution')" />
    <NumberField v-model="scale.low" label="Lowest plausible" :says="says('low')" />
    <NumberField v-model="scale.high" label="Highest plausible" :says="says('high')" />
  </div>
  <div v-else-if="scale.kind === 'count'" class="grid grid-cols-2 gap-3">
    <div>
      <span class="mb-1 block text-[0.9rem] text-soft">What is counted</span>
      <PlanText v-model="scale.what" :at="`${at}.what`" label="What is counted" placeholder="seeds" :work="work" />
    </div>
    <NumberField v-model="scale.of" label="Out of (empty: open)" whole :says="says('of')" />
  </div>
  <div v-else class="grid grid-cols-2 gap-3">
    <div>
      <span class="mb-1 block text-[0.9rem] text-soft">Passed is called</span>
      <PlanText v-model="scale.pass_word" :at="`${at}.pass_word`" label="Word for passed" :work="work" />
    </div>
    <div>
      <span class="mb-1 block text-[0.9rem] text-soft">Failed is called</span>
      <PlanText v-model="scale.fail_word" :at="`${at}.fail_word`" label="Word for failed" :work="work" />
    </div>
  </div>
</template>
