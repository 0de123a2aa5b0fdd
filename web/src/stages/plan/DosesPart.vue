<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The dose workbench: what each sample gets of what, whether it can be measured, and both schools side by
 * side.
 */
import { computed, ref } from "vue";

import CautionList from "@/parts/CautionList.vue";
import DoseRow from "./DoseRow.vue";
import PlanRow from "./PlanRow.vue";
import PlanText from "./PlanText.vue";
import ProductRow from "./ProductRow.vue";
import SchoolTable from "./SchoolTable.vue";
import ToolList from "./ToolList.vue";
import { dose, product, type Treatment } from "./fresh";
import { useDoses } from "./useDoses";
import type { Plan, PlanAtWork } from "./usePlan";
import EchoField from "@/parts/EchoField.vue";
import NumberField from "@/parts/NumberField.vue";
import { letterOf } from "@/parts/letters";
import type { Schemas } from "@/shell/api/client";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const doses = useDoses(plan);
const sample = props.work.sample;
const shop = computed(() => doses.found.value?.sheet.shopping ?? []);
const mixes = computed(
  () => new Map(doses.found.value?.sheet.mixes.map((mix) => [mix.treatment, mix]) ?? []),
);
const vessels = ref(plan.value.treatments.some((one) => one.vessel));
const money = (value: number) => `${plan.value.money}${value.toFixed(2)}`;
function add(treatment: Treatment): void {
  if (!plan.value.products.length) plan.value.products.push(product({ name: treatment.name }));
  const taken = new Set(plan.value.treatments.flatMap((one) => one.doses.map((each) => each.product)));
  const own =
    plan.value.products.find((one) => one.name.trim() === treatment.name.trim()) ??
    plan.value.products.find((one) => !taken.has(one.key));
  treatment.doses.push(dose(own?.key ?? ""));
}
function drop(i: number): void {
  const [gone] = plan.value.products.splice(i, 1);
  for (const one of plan.value.treatments)
    for (const each of one.doses) if (each.product === sure(gone).key) each.product = "";
}
function same(row: Schemas["SideBySide"]): void {
  const found = plan.value.treatments.flatMap((one) => one.doses).find((one) => one.key === row.dose);
  if (found) Object.assign(found, { way: "active", rate: row.rate });
}
const said = (at: string) =>
  props.work.says(at) ?? (plan.value.sample_size.trim() ? doses.says(at) : undefined);
</script>

<template>
  <div>
    <PlanRow title="What a dose goes into" hint="rates are multiplied by the size of one sample">
      <div class="grid gap-3 sm:grid-cols-3">
        <EchoField
          v-model="plan.sample_size"
          :label="`Size of one ${sample.one}`"
          wants="amount"
          :system="plan.system"
          placeholder="400 mL, 0.5 m2, 2 kg"
          bench="volume"
          :says="said('sample_size')"
        />
        <PlanText
          v-model="plan.carrier"
          at="carrier"
          label="Given in"
          :work="work"
          shown
          placeholder="tap water"
        />
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">Gallons, pints and spoons are</span>
          <select v-model="plan.system" class="field">
            <option value="metric">metric (5 mL)</option>
            <option value="us">US</option>
            <option value="imperial">imperial</option>
          </select>
        </label>
      </div>
      <div class="mt-2 grid gap-x-6 sm:grid-cols-2">
        <label class="flex min-h-11 items-center gap-3"
          ><input v-model="plan.top_up" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> Smaller doses
          and the untreated get as much more {{ plan.carrier || "carrier" }}</label
        >
        <label class="flex min-h-11 items-center gap-3"
          ><input
            type="checkbox"
            class="h-6 w-6 flex-none accent-ink"
            :checked="plan.mixing === 'batch'"
            @change="plan.mixing = ($event.target as HTMLInputElement).checked ? 'batch' : 'each'"
          />
          One batch for all {{ sample.many }} of a treatment</label
        >
      </div>
      <div class="mt-2 grid items-start gap-3 sm:grid-cols-[10rem_minmax(0,1fr)]">
        <NumberField
          :model-value="Math.round(1000 * plan.overage) / 10"
          label="Mixed over"
          unit="%"
          needed
          :says="work.says('overage')"
          @update:model-value="(n) => n !== null && (plan.overage = n / 100)"
        />
        <PlanText
          v-model="plan.cleaning"
          at="cleaning"
          label="Tools and vessels are cleaned with, between treatments"
          :work="work"
          shown
          placeholder="hot water and soap"
        />
      </div>
    </PlanRow>
    <PlanRow title="Products" hint="what doses are taken from">
      <ul class="grid gap-3">
        <ProductRow
          v-for="(one, i) in plan.products"
          :key="one.key"
          v-model="plan.products[i]!"
          :place="i"
          :plan="plan"
          :work="work"
          :doses="doses"
          @out="drop(i)"
        />
      </ul>
      <button type="button" class="press press-small mt-3" data-adds @click="plan.products.push(product())">
        Add a product
      </button>
    </PlanRow>
    <PlanRow title="What each gets" hint="as the label writes it; worked out here">
      <p v-if="!plan.treatments.length" class="text-soft">
        First name the <RouterLink :to="{ params: { part: 'treatments' } }">treatments</RouterLink>.
      </p>
      <section v-for="(one, i) in plan.treatments" :key="one.key" class="mb-4">
        <h3 class="flex flex-wrap items-baseline justify-between gap-x-4">
          <span
            ><span class="code mr-1">{{ letterOf(i) }}</span> {{ one.name || "unnamed" }}</span
          >
          <span v-if="mixes.get(one.key)?.costs" class="text-[0.92rem] font-normal text-soft"
            >{{ money(mixes.get(one.key)!.costs!.sample) }} a {{ sample.one
            }}<button
              v-if="
                work.editable.value && one.cost !== Math.round(1e4 * mixes.get(one.key)!.costs!.sample) / 1e4
              "
              type="button"
              class="quiet"
              :aria-label="`Take this as the cost of ${one.name}`"
              @click="one.cost = Math.round(1e4 * mixes.get(one.key)!.costs!.sample) / 1e4"
            >
              Take as its cost
            </button></span
          >
        </h3>
        <PlanText
          v-if="vessels"
          v-model="one.vessel"
          class="max-w-80"
          :at="`treatments.${i}.vessel`"
          :label="`Vessel of ${one.name}`"
          :work="work"
          placeholder="vessel: its own"
        />
        <ul class="mt-1 grid gap-3">
          <DoseRow
            v-for="(each, j) in one.doses"
            :key="each.key"
            v-model="one.doses[j]!"
            :at="`treatments.${i}.doses.${j}`"
            :name="one.name || `treatment ${i + 1}`"
            :place="j"
            :plan="plan"
            :work="work"
            :doses="doses"
            @out="one.doses.splice(j, 1)"
          />
        </ul>
        <p v-if="doses.treated(one.key)?.top_up_says" class="mt-1 border-l-4 border-line pl-4">
          {{ doses.treated(one.key)!.top_up_says }}
        </p>
        <button
          type="button"
          class="quiet -ml-2"
          data-adds
          :aria-label="`Add a dose to ${one.name || `treatment ${i + 1}`}`"
          @click="add(one)"
        >
          {{ one.doses.length ? "Add another dose" : "Add a dose" }}
        </button>
      </section>
      <button
        v-if="!vessels && plan.treatments.length"
        type="button"
        class="quiet -ml-2"
        @click="vessels = true"
      >
        Some share a vessel
      </button>
      <CautionList :cautions="[]" :clashes="work.judged.value?.clashes ?? []" />
    </PlanRow>
    <PlanRow
      v-for="school in doses.found.value?.bench.schools ?? []"
      :key="school.active"
      :title="`As the label says, or the same ${school.active}`"
      hint="both are honest; the plan asks one of them"
    >
      <SchoolTable :school="school" :plan="plan" :editable="work.editable.value" @same="same" />
    </PlanRow>
    <PlanRow title="My measuring tools" hint="yours in every trial">
      <ToolList :doses="doses" :system="plan.system" />
    </PlanRow>
    <PlanRow v-if="shop.length" title="What all of it takes" hint="with what is mixed over, in whole packs">
      <ul>
        <li v-for="one in shop" :key="one.product" class="rule flex flex-wrap justify-between gap-x-6 py-2">
          <span
            ><b>{{ one.name }}</b
            >, {{ one.needed }}</span
          >
          <span v-if="one.packs !== null"
            >{{ one.packs }} × {{ one.pack
            }}<template v-if="one.cost !== null">, {{ money(one.cost) }}</template
            >; {{ one.left }} left</span
          >
          <span v-else class="text-soft">{{ one.problem || "no pack written down" }}</span>
        </li>
      </ul>
      <p class="mt-2">
        <RouterLink
          class="inline-flex min-h-11 items-center"
          :to="{ name: 'prepare', params: { id: work.trial, part: 'mix' } }"
          >See the whole mix sheet</RouterLink
        >
      </p>
    </PlanRow>
  </div>
</template>
