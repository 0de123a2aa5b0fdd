<script setup lang="ts">
/** What instruments are held to: the unit they are told in, the limit from which a sample fails, and from
 * which reading on one says that there is something.
 */
import type { Plan, PlanAtWork } from "./usePlan";
import PlanRow from "./PlanRow.vue";
import PlanText from "./PlanText.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";

const asked = defineModel<NonNullable<Plan["agreement"]>>({ required: true });
defineProps<{ work: PlanAtWork }>();
</script>

<template>
  <PlanRow title="Held against each other" hint="each instrument, kit or eye is an outcome; nothing wins">
    <div class="grid gap-3 sm:grid-cols-3">
      <PlanText
        v-model="asked.unit"
        at="agreement.unit"
        label="All are told in"
        :work="work"
        shown
        placeholder="mg/L"
      />
      <NumberField
        v-model="asked.limit"
        label="A sample fails from"
        :unit="asked.unit"
        placeholder="no limit"
        :says="work.says('agreement.limit')"
      />
      <NumberField
        v-model="asked.alarm"
        label="It says “there is some” from"
        :unit="asked.unit"
        :placeholder="asked.limit === null ? 'anything above 0' : 'the limit'"
        :says="work.says('agreement.alarm')"
      />
    </div>
    <ProblemText :says="work.says('agreement')" />
  </PlanRow>
</template>
