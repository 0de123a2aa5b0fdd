<script setup lang="ts">
/** A product that doses are taken from: its active ingredient, its pack and price. */
import PlanText from "./PlanText.vue";
import type { DosesAtWork } from "./useDoses";
import type { Plan, PlanAtWork } from "./usePlan";
import EchoField from "@/parts/EchoField.vue";
import NumberField from "@/parts/NumberField.vue";
import TakeOut from "@/parts/TakeOut.vue";

const one = defineModel<Plan["products"][number]>({ required: true });
const props = defineProps<{ place: number; plan: Plan; work: PlanAtWork; doses: DosesAtWork }>();
const emit = defineEmits<{ out: [] }>();
const at = (part: string) => `products.${props.place}.${part}`;
const named = () => one.value.name || `product ${props.place + 1}`;
</script>

<template>
  <li class="rule pt-3 first:border-0 first:pt-0">
    <div class="grid grid-cols-[minmax(0,1fr)_44px] gap-2">
      <PlanText
        v-model="one.name"
        :at="at('name')"
        :label="`Name of product ${place + 1}`"
        placeholder="Product"
        :work="work"
      />
      <TakeOut :what="named()" @out="emit('out')" />
    </div>
    <div class="mt-1 grid grid-cols-2 gap-x-3 gap-y-2 sm:grid-cols-5">
      <PlanText
        v-model="one.active"
        :at="at('active')"
        label="Active ingredient"
        :work="work"
        shown
        placeholder="if it has one"
      />
      <EchoField
        v-model="one.share"
        :label="`Share of it`"
        wants="share"
        placeholder="34 %"
        :says="doses.says(at('share')) ?? work.says(at('share'))"
      />
      <EchoField
        v-model="one.pack"
        label="A pack holds"
        wants="amount"
        :system="plan.system"
        placeholder="250 mL"
        :says="work.says(at('pack'))"
      />
      <NumberField v-model="one.price" :label="`and costs, ${plan.money}`" :says="work.says(at('price'))" />
      <NumberField
        v-model="one.keeps_open"
        label="Opened it keeps"
        unit="days"
        whole
        :says="work.says(at('keeps_open'))"
      />
    </div>
  </li>
</template>
