<script setup lang="ts">
/** Blocks: places or days inside which treatments are compared. */
import { newKey, type Plan, type PlanAtWork } from "./usePlan";
import PlanText from "./PlanText.vue";
import ProblemText from "@/parts/ProblemText.vue";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const add = () => plan.value.layout.blocks.push({ key: newKey(), name: "", note: "" });
function choose(kind: "random" | "blocks"): void {
  plan.value.layout.kind = kind;
  while (kind === "blocks" && plan.value.layout.blocks.length < 2) add();
}
</script>

<template>
  <div>
    <div class="flex flex-wrap gap-x-6">
      <label class="flex min-h-[46px] items-center gap-2"><input type="radio" name="layout" class="h-5 w-5 accent-ink" :checked="plan.layout.kind === 'random'" @change="choose('random')" /> all in one place, mixed at random</label>
      <label class="flex min-h-[46px] items-center gap-2"><input type="radio" name="layout" class="h-5 w-5 accent-ink" :checked="plan.layout.kind === 'blocks'" @change="choose('blocks')" /> every treatment in each of several places</label>
    </div>
    <template v-if="plan.layout.kind === 'blocks'">
      <ul class="mt-1 grid gap-2">
        <li v-for="(block, i) in plan.layout.blocks" :key="block.key" class="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_44px] items-start gap-2">
          <PlanText v-model="block.name" :at="`layout.blocks.${i}.name`" :label="`Name of place ${i + 1}`" placeholder="Porch" :work="work" />
          <PlanText v-model="block.note" :at="`layout.blocks.${i}.note`" :label="`What place ${i + 1} is like`" placeholder="9 °C, shade" :work="work" />
          <button type="button" class="grid h-[46px] w-11 place-items-center text-[1.4rem]" :aria-label="`Take out place ${i + 1}`" @click="plan.layout.blocks.splice(i, 1)">×</button>
        </li>
      </ul>
      <button type="button" class="press press-small mt-2" @click="add">Add a place</button>
    </template>
    <ProblemText :says="work.says('layout.blocks')" />
  </div>
</template>
