<script setup lang="ts">
/** The question: what is compared and why, what the answer would change, what matters, what could hurt
 * someone.
 */
import { computed, defineAsyncComponent, ref } from "vue";

import AgreementRow from "./AgreementRow.vue";
import CautionList from "@/parts/CautionList.vue";
import OwnPrediction from "./OwnPrediction.vue";
import PlanRow from "./PlanRow.vue";
import PlanText from "./PlanText.vue";
import SharedCosts from "./SharedCosts.vue";
import type { Plan, PlanAtWork } from "./usePlan";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { differenceUnit } from "@/parts/amounts";
import { agreement } from "./fresh";
import { isBare } from "./telling/told";
import { counted } from "@/parts/nouns";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const SayIt = defineAsyncComponent(() => import("./telling/SayIt.vue"));
/** The first thing that a new plan shows is one box. */
const telling = ref(isBare(plan.value) && props.work.editable.value && !props.work.saved.value?.sealed);
const first = computed(() => plan.value.outcomes.findIndex((one) => one.primary));
const outcome = computed(() => plan.value.outcomes[first.value]);
const unit = computed(() => (outcome.value ? differenceUnit(outcome.value.scale) : ""));
function matters(margin: number | null): void {
  if (outcome.value) Object.assign(outcome.value, { margin, margin_unit: margin === null ? "" : unit.value });
}
/** What the verdict may claim; where instruments are held against each other nothing wins. */
const claim = computed({
  get: () => (plan.value.agreement ? "agree" : plan.value.compare),
  set(wanted: Plan["compare"] | "agree") {
    plan.value.agreement = wanted === "agree" ? (plan.value.agreement ?? agreement()) : null;
    plan.value.compare = wanted === "agree" ? "all" : wanted;
  },
});
const zones = Intl.supportedValuesOf("timeZone");
</script>

<template>
  <div>
    <SayIt v-if="telling" v-model="plan" :work="work" @done="telling = false" />
    <section v-if="plan.earlier" class="mt-4 border-l-4 border-ink pl-4">
      <template v-if="plan.earlier.found.length">
        <h2 class="text-[1.05rem]">“{{ plan.earlier.title }}” found</h2>
        <ul class="mb-3 grid gap-1">
          <li v-for="one in plan.earlier.found" :key="one" class="max-w-3xl">{{ one }}</li>
        </ul>
      </template>
      <h2 class="text-[1.05rem]">Begun from “{{ plan.earlier.title }}”. Do better this time:</h2>
      <ul class="mt-1 grid gap-1">
        <li v-for="(one, i) in plan.earlier.weaknesses" :key="one" class="flex items-start gap-2">
          <span class="grow py-2">{{ one }}</span>
          <button
            type="button"
            class="quiet flex-none"
            :aria-label="`Mended: ${one}`"
            @click="plan.earlier!.weaknesses.splice(i, 1)"
          >
            Mended
          </button>
        </li>
        <li v-if="!plan.earlier.weaknesses.length" class="py-2 text-soft">
          All of its weaknesses are mended.
        </li>
      </ul>
    </section>
    <PlanRow title="Question">
      <PlanText
        v-model="plan.question"
        at="question"
        label="Question"
        :work="work"
        placeholder="What do you want to know?"
      />
      <div class="mt-3 grid gap-3 sm:grid-cols-2">
        <PlanText
          v-model="plan.why"
          at="why"
          label="Why it is asked"
          :work="work"
          area
          shown
          placeholder="half of us swear by it"
        />
        <PlanText
          v-model="plan.decision"
          at="decision"
          label="What the answer would change"
          :work="work"
          area
          shown
          placeholder="what we buy next season"
        />
      </div>
    </PlanRow>
    <AgreementRow v-if="plan.agreement" v-model="plan.agreement" :work="work" />
    <PlanRow v-else title="The smallest difference that matters" :hint="outcome?.name">
      <div v-if="outcome" class="max-w-60">
        <NumberField
          :model-value="outcome.margin"
          :label="`Smallest difference that matters in ${outcome.name}`"
          hide-label
          :unit="unit === 'share' ? 'of 1' : unit"
          :says="work.says(`outcomes.${first}.margin`)"
          @update:model-value="matters"
        />
      </div>
      <p v-else>
        Choose what is looked at first, under
        <RouterLink :to="{ params: { part: 'outcomes' } }">Outcomes</RouterLink>; it has a unit of its own.
      </p>
    </PlanRow>
    <PlanRow title="Your prediction">
      <OwnPrediction
        :trial="work.trial"
        :zone="plan.zone"
        :opened="Boolean(work.saved.value?.sealed) && !work.saved.value?.may_amend"
        @written="work.predicted"
      />
    </PlanRow>
    <PlanRow v-if="!plan.agreement" title="Wanted of the winner">
      <ChoiceRow
        v-model="plan.purpose"
        legend="Wanted of the winner"
        hide-legend
        :choices="[
          { value: 'fast', name: 'fast' },
          { value: 'lasting', name: 'lasting' },
          { value: 'cheap', name: 'cheap' },
          { value: 'gentle', name: 'gentle' },
          { value: null, name: 'no matter' },
        ]"
      />
    </PlanRow>
    <PlanRow v-if="!plan.agreement" title="Used how?" hint="both are honest; the answer differs">
      <ChoiceRow
        v-model="plan.school"
        legend="Used how?"
        hide-legend
        :choices="[
          { value: 'label', name: 'as each label says', says: 'how good is the product in use?' },
          { value: 'same', name: 'all the same way', says: 'how good is what is in it, dose for dose?' },
        ]"
      />
    </PlanRow>
    <PlanRow title="What could hurt someone">
      <PlanText
        v-model="plan.hazards"
        at="hazards"
        label="What could hurt someone"
        :work="work"
        area
        placeholder="fumes, sharp edges, loads that fall, allergies"
      />
      <CautionList
        v-if="work.judged.value"
        :cautions="work.judged.value.cautions"
        :clashes="work.judged.value.clashes"
      />
      <p class="mt-1 text-[0.92rem] text-soft">
        The product’s label and safety sheet, local rules and licensed practice go before anything written
        here.
      </p>
    </PlanRow>
    <PlanRow title="One sample" hint="the thing that gets a treatment by itself">
      <div class="grid gap-3 sm:grid-cols-[1fr_8rem_1fr]">
        <PlanText
          v-model="plan.sample_word"
          at="sample_word"
          label="One sample is a"
          :work="work"
          shown
          placeholder="pot, board, jar …"
        />
        <NumberField
          :model-value="plan.pieces"
          label="pieces in it"
          whole
          needed
          :says="work.says('pieces')"
          @update:model-value="(n) => n !== null && (plan.pieces = n)"
        />
        <PlanText
          v-if="plan.pieces !== 1"
          v-model="plan.piece_word"
          at="piece_word"
          label="which are"
          :work="work"
          shown
          placeholder="stems, fish, seeds"
        />
      </div>
      <PlanText
        v-model="plan.sample_words"
        class="mt-3 max-w-72"
        at="sample_words"
        label="several of them, if not as shown"
        :work="work"
        shown
        :placeholder="work.sample.value.many"
      />
      <p v-if="plan.pieces > 1" class="mt-2">
        {{ counted(plan.pieces, work.judged.value?.piece ?? { one: "piece", many: "pieces" }) }} in one
        {{ work.sample.value.one }} share its treatment and its luck: they count as one
        {{ work.sample.value.one }}, not as {{ plan.pieces }}.
      </p>
    </PlanRow>
    <PlanRow title="Judged by">
      <div class="grid gap-3 sm:grid-cols-2">
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">Claim</span>
          <select v-model="claim" class="field">
            <option value="all">which is best of all</option>
            <option value="control">which beats the control</option>
            <option value="agree">whether instruments agree: nothing wins</option>
          </select>
        </label>
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">Risk of a false alarm</span>
          <select v-model.number="plan.alpha" class="field">
            <option :value="0.01">1 in 100</option>
            <option :value="0.05">5 in 100</option>
            <option :value="0.1">10 in 100</option>
          </select>
        </label>
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">Time zone</span>
          <select v-model="plan.zone" class="field">
            <option v-if="!zones.includes(plan.zone)" :value="plan.zone">{{ plan.zone }}</option>
            <option v-for="zone in zones" :key="zone" :value="zone">{{ zone }}</option>
          </select>
        </label>
        <div class="grid grid-cols-[1fr_5rem] gap-3">
          <NumberField
            v-model="plan.sample_cost"
            :label="`Cost of one ${plan.sample_word || 'sample'}, bare`"
            :says="work.says('sample_cost')"
          />
          <PlanText v-model="plan.money" at="money" label="in" :work="work" shown />
        </div>
      </div>
      <SharedCosts v-model="plan" :work="work" />
      <ProblemText :says="work.says('compare') ?? work.says('zone')" />
    </PlanRow>
  </div>
</template>
