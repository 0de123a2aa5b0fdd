<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One dose of a treatment: written as the label does, worked out, and held against what it is measured with.
 */
import { computed, ref } from "vue";

import type { Dose } from "./fresh";
import PlanText from "./PlanText.vue";
import type { DosesAtWork } from "./useDoses";
import type { Plan, PlanAtWork } from "./usePlan";
import EchoField from "@/parts/EchoField.vue";
import MeasurePicture from "@/parts/MeasurePicture.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import type { Schemas } from "@/shell/api/client";
import { honest } from "@/parts/amounts";

const one = defineModel<Dose>({ required: true });
const props = defineProps<{
  at: string;
  name: string;
  place: number;
  plan: Plan;
  work: PlanAtWork;
  doses: DosesAtWork;
}>();
const emit = defineEmits<{ out: [] }>();
const WAYS: Record<Dose["way"], { says: string; wants: Schemas["UnderstoodIn"]["wants"]; example: string }> =
  {
    label: { says: "label rate", wants: "rate", example: "4 mL/L" },
    pack: { says: "what a pack treats", wants: "coverage", example: "400 mL treats 80 L" },
    active: { says: "active ingredient", wants: "rate", example: "0.4 lb/1000 ft2" },
    parts: { says: "parts", wants: "ratio", example: "15:1 water to product" },
    strength: { says: "strength in the end", wants: "share", example: "10 %" },
    amount: { says: "the same for each", wants: "amount", example: "3 g" },
  };
const how = ref(false);
const open = ref(false);
/** Shown where something of it is written, or has to be. */
const steps = computed(() => {
  const { vessel, water, minutes, rinse, check } = one.value;
  return open.value || Boolean(vessel || water || minutes || rinse || check) || Boolean(says("rinse"));
});
const told = computed(() => props.doses.told(one.value.key));
const tool = computed(() =>
  props.doses.tools.value.find(
    (each) => each.text === told.value?.with_tool || each.name === told.value?.tool,
  ),
);
const says = (part: string) =>
  props.doses.says(`${props.at}.${part}`) ?? props.work.says(`${props.at}.${part}`);
/** A sentence about the rate only once something is written there. */
const rateSays = computed(() => (one.value.rate.trim() ? says("rate") : props.work.says(`${props.at}.rate`)));
const standing = computed(
  () =>
    ({
      fine: "measured well enough",
      warn: "coarse: more than 5 % off either way",
      refuse: "too coarse: more than 20 % off either way",
    })[told.value?.standing ?? "fine"],
);
/** The amount that a tool is really filled with. */
const atOnce = computed(() => Number.parseFloat(told.value?.measures ?? ""));
function takeStock(): void {
  one.value.tool = sure(told.value).with_tool;
  one.value.stock = true;
}
function takeTool(text: string): void {
  one.value.tool = text;
  one.value.stock = false;
}
const finer = computed(() => {
  const way = told.value?.ways.find((each) => each.startsWith("Take "));
  return way && props.doses.tools.value.find((each) => way.startsWith(`Take ${each.name}:`));
});
</script>

<template>
  <li class="border-l-4 border-line py-1 pl-3 sm:pl-4">
    <div
      class="grid grid-cols-[minmax(0,1fr)_44px] items-start gap-2 sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_minmax(0,1.3fr)_44px]"
    >
      <label
        ><span class="sr-only">Product of dose {{ place + 1 }} of {{ name }}</span>
        <select v-model="one.product" class="field">
          <option value="">which product?</option>
          <option v-for="each in plan.products" :key="each.key" :value="each.key">
            {{ each.name || "unnamed product" }}
          </option>
        </select>
        <ProblemText :says="work.says(`${at}.product`)" />
      </label>
      <label class="max-sm:col-start-1"
        ><span class="sr-only">How the rate of {{ name }} is written</span>
        <select v-model="one.way" class="field">
          <option v-for="(each, key) in WAYS" :key="key" :value="key">{{ each.says }}</option>
        </select>
      </label>
      <EchoField
        v-model="one.rate"
        class="max-sm:col-start-1"
        :label="`Rate of dose ${place + 1} of ${name}`"
        hide-label
        :wants="WAYS[one.way].wants"
        :system="plan.system"
        :placeholder="WAYS[one.way].example"
        :bench="one.way === 'amount' ? 'label' : undefined"
        :says="rateSays"
      />
      <TakeOut
        class="max-sm:col-start-2 max-sm:row-start-1"
        :what="`dose ${place + 1} of ${name}`"
        @out="emit('out')"
      />
    </div>
    <div
      v-if="told"
      class="mt-1 grid gap-x-6 gap-y-2 sm:grid-cols-[auto_minmax(0,1fr)]"
      :data-test="`dose-${one.key}`"
    >
      <div class="min-w-36">
        <p class="text-[1.5rem] leading-tight font-bold whitespace-nowrap">{{ told.says }}</p>
        <p class="text-[0.92rem] text-soft">for each {{ plan.sample_word || "sample" }}</p>
        <button type="button" class="quiet -ml-2" :aria-expanded="how" @click="how = !how">How?</button>
      </div>
      <div class="min-w-0">
        <MeasurePicture
          v-if="tool && !one.stock && atOnce > 0"
          :amount="atOnce"
          :most="tool.most"
          :graduation="tool.graduation"
          :unit="told.unit"
        />
        <p v-if="told.standing && !one.stock">
          <b v-if="told.standing !== 'fine'">{{ told.tool }}</b><template v-else>{{ told.tool }}</template
          >: ± {{ honest(100 * (told.relative_error ?? 0), 2) }} %, {{ standing }}.
        </p>
        <p v-else-if="!told.standing" class="text-soft">
          {{
            doses.tools.value.length
              ? `None of your tools measures ${told.unit}.`
              : "List your tools below to see whether they can measure this."
          }}
        </p>
        <p v-if="one.stock" class="border-l-4 border-ink pl-3">{{ told.stock }}</p>
        <div class="flex flex-wrap items-center gap-x-3">
          <label class="min-w-40 grow sm:max-w-64"
            ><span class="sr-only">Measured with, dose {{ place + 1 }} of {{ name }}</span>
            <select
              :value="one.tool"
              class="field"
              @change="takeTool(($event.target as HTMLSelectElement).value)"
            >
              <option value="">with my best tool</option>
              <option
                v-for="each in doses.tools.value"
                :key="each.id"
                :value="each.text"
                :disabled="each.unit !== told.unit"
              >
                {{ each.name
                }}{{ each.unit === told.unit ? "" : `: measures ${each.unit}, not ${told.unit}` }}
              </option>
              <option
                v-if="one.tool && !doses.tools.value.some((each) => each.text === one.tool)"
                :value="one.tool"
              >
                {{ one.tool }}
              </option>
            </select>
          </label>
          <button v-if="one.stock" type="button" class="quiet" @click="one.stock = false">
            Measure it directly
          </button>
          <NumberField
            :model-value="one.times"
            class="w-24"
            :label="`Times in the trial, dose ${place + 1} of ${name}`"
            hide-label
            unit="×"
            whole
            needed
            :says="work.says(`${at}.times`)"
            @update:model-value="(n) => n !== null && (one.times = n)"
          />
        </div>
        <ProblemText :says="doses.says(`${at}.tool`) ?? work.says(`${at}.tool`)" />
      </div>
      <ul
        v-if="told.ways.length && !one.stock"
        class="grid gap-2 border-2 border-ink p-3 sm:col-span-2"
        aria-label="Ways out"
      >
        <li
          v-for="way in told.ways"
          :key="way"
          class="flex flex-wrap items-center justify-between gap-x-4 gap-y-1"
        >
          <span class="min-w-0 grow basis-72">{{ way }}</span>
          <button
            v-if="way.startsWith('Make a stock')"
            type="button"
            class="press press-small"
            @click="takeStock"
          >
            Take the stock way
          </button>
          <button
            v-else-if="finer && way.startsWith('Take ')"
            type="button"
            class="press press-small"
            @click="takeTool(finer.text)"
          >
            Take that tool
          </button>
        </li>
        <li v-if="plan.mixing === 'each'">
          Or mix one batch for all of them, above: the larger amount is measured better.
        </li>
      </ul>
      <ol v-if="how" class="list-decimal pl-5 sm:col-span-2">
        <li v-for="step in told.steps" :key="step">{{ step }}</li>
      </ol>
    </div>
    <div v-if="steps" class="grid gap-3 mt-2 sm:grid-cols-2">
      <PlanText
        v-model="one.water"
        :at="`${at}.water`"
        :label="`In how much ${plan.carrier || 'water'}`"
        :work="work"
        shown
        placeholder="200 mL"
      />
      <PlanText
        v-model="one.vessel"
        :at="`${at}.vessel`"
        label="In what"
        :work="work"
        shown
        placeholder="the glass tray"
      />
      <NumberField v-model="one.minutes" label="Left for" unit="min" :says="says('minutes')" />
      <PlanText
        v-model="one.rinse"
        :at="`${at}.rinse`"
        label="Then rinsed with"
        :work="work"
        shown
        placeholder="clear water, twice"
      />
      <PlanText
        v-model="one.check"
        class="sm:col-span-2"
        :at="`${at}.check`"
        label="And gone on from once"
        :work="work"
        shown
        placeholder="nothing bubbles any more"
      />
    </div>
    <button
      v-else
      type="button"
      class="quiet -ml-2 text-[0.9rem]"
      :aria-label="`Dose ${place + 1} of ${name} as a step: in what, how long, rinsed with`"
      @click="open = true"
    >
      as a step: in what, how long, rinsed with
    </button>
  </li>
</template>
