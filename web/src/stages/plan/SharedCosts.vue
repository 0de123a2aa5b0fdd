<script setup lang="ts">
/** What is bought once for many samples: a sheet, a tank, a tin. */
import { newKey } from "./fresh";
import PlanText from "./PlanText.vue";
import type { Plan, PlanAtWork } from "./usePlan";
import NumberField from "@/parts/NumberField.vue";
import PickMany from "@/parts/PickMany.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const named = () =>
  plan.value.treatments.map((one, i) => ({ key: one.key, name: one.name.trim() || `Treatment ${i + 1}` }));
</script>

<template>
  <div class="mt-4">
    <ul class="grid gap-4">
      <li v-for="(one, i) in plan.shared_costs" :key="one.key" class="grid gap-2">
        <div class="grid grid-cols-[minmax(0,1fr)_7rem_44px] items-start gap-2">
          <PlanText
            v-model="one.what"
            :at="`shared_costs.${i}.what`"
            :label="`Bought once, ${i + 1}`"
            placeholder="A tin of primer"
            :work="work"
          />
          <NumberField
            v-model="one.money"
            :label="`Price of ${one.what || `what is bought once, ${i + 1}`}`"
            hide-label
            :unit="plan.money"
            placeholder="unknown"
            :says="work.says(`shared_costs.${i}.money`)"
          />
          <TakeOut
            :what="one.what || `what is bought once, ${i + 1}`"
            @out="plan.shared_costs.splice(i, 1)"
          />
        </div>
        <p class="text-[0.9rem] text-soft">
          {{
            one.treatments.length ? "Shared by the samples of" : "Shared by all samples; or only by those of"
          }}
        </p>
        <PickMany v-model="one.treatments" :label="`${one.what || 'It'} is shared by`" :options="named()" />
        <ProblemText :says="work.says(`shared_costs.${i}.treatments`)" />
      </li>
    </ul>
    <button
      type="button"
      class="quiet -ml-2"
      data-adds
      @click="plan.shared_costs.push({ key: newKey(), what: '', money: null, treatments: [] })"
    >
      Something is bought once for many
    </button>
    <ul class="mt-2 grid gap-2">
      <li
        v-for="(one, i) in plan.outside"
        :key="one.key"
        class="grid grid-cols-[minmax(0,1fr)_7rem_44px] items-start gap-2"
      >
        <PlanText
          v-model="one.name"
          :at="`outside.${i}.name`"
          :label="`Set beside, ${i + 1}`"
          placeholder="A bought one, from the shop"
          :work="work"
        />
        <NumberField
          v-model="one.money"
          :label="`Price of ${one.name || `what it is set beside, ${i + 1}`}, for one ${plan.sample_word || 'sample'}`"
          hide-label
          :unit="plan.money"
          placeholder="unknown"
          :says="work.says(`outside.${i}.money`)"
        />
        <TakeOut :what="one.name || `what it is set beside, ${i + 1}`" @out="plan.outside.splice(i, 1)" />
      </li>
    </ul>
    <button
      type="button"
      class="quiet -ml-2"
      data-adds
      @click="plan.outside.push({ key: newKey(), name: '', money: null })"
    >
      Something outside the trial to set costs beside
    </button>
  </div>
</template>
