<script setup lang="ts">
/** Prove the method first: a blank, a known sample, repeats by the same hand, and what they say of the
 * method.
 */
import { computed, ref } from "vue";

import type { Outcome } from "./fresh";
import type { PlanAtWork } from "./usePlan";
import NumberField from "@/parts/NumberField.vue";
import NumbersField from "@/parts/NumbersField.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

const proof = defineModel<Outcome["proof"]>({ required: true });
defineProps<{ at: string; unit: string; finding?: Schemas["MethodFinding"]; work: PlanAtWork }>();
const begun = computed(
  () => proof.value.blanks.length || proof.value.repeats.length || proof.value.known_readings.length,
);
const open = ref(Boolean(begun.value));
const add = () => proof.value.repeats.push([]);
</script>

<template>
  <section class="border-l-4 border-line pl-4">
    <button type="button" class="quiet -ml-2" :aria-expanded="open" @click="open = !open">
      {{ open ? "Fold the proof of the method" : "Prove the method first" }}
    </button>
    <template v-if="open">
      <p class="max-w-xl text-soft">
        Before you trust it: read a few things twice or more, the same hand and tool, without looking at the
        first reading.
      </p>
      <ul class="mt-3 grid gap-2">
        <li v-for="(_, i) in proof.repeats" :key="i" class="grid grid-cols-[1fr_44px] gap-2">
          <NumbersField
            v-model="proof.repeats[i]!"
            :label="`Thing ${i + 1}, its readings`"
            :unit="unit"
            placeholder="12.1, 12.3, 12.0"
          />
          <TakeOut class="self-end" :what="`thing ${i + 1}`" @out="proof.repeats.splice(i, 1)" />
        </li>
      </ul>
      <button type="button" class="press press-small mt-2" @click="add">
        {{ proof.repeats.length ? "Another thing" : "Read a thing several times" }}
      </button>
      <div class="mt-3 grid gap-3 sm:grid-cols-3">
        <NumbersField v-model="proof.blanks" label="Blanks read" :unit="unit" placeholder="0.1, 0, 0.2" />
        <NumberField
          v-model="proof.known"
          label="Known to be"
          :unit="unit"
          :says="work.says(`${at}.known`)"
        />
        <NumbersField v-model="proof.known_readings" label="The known one read" :unit="unit" />
      </div>
      <div v-if="finding && begun" class="mt-4" data-test="method">
        <p class="text-[1.1rem] font-bold">{{ finding.says }}</p>
        <div v-if="finding.resolution && finding.margin" class="mt-2 grid max-w-xl gap-1" aria-hidden="true">
          <span class="flex items-center gap-3"
            ><i
              class="block h-4 bg-ink"
              :style="{
                width: `${Math.max(2, (60 * finding.margin) / Math.max(finding.margin, finding.resolution))}%`,
              }"
            />what matters, {{ honest(finding.margin) }} {{ unit }}</span
          >
          <span class="flex items-center gap-3"
            ><i
              class="block h-4 border-2 border-ink"
              :style="{
                width: `${Math.max(2, (60 * finding.resolution) / Math.max(finding.margin, finding.resolution))}%`,
              }"
            />what it blurs, {{ honest(finding.resolution) }} {{ unit }}</span
          >
        </div>
        <ul class="mt-2 grid gap-1 text-[0.95rem] text-soft">
          <li v-for="step in finding.steps" :key="step">{{ step }}</li>
        </ul>
      </div>
    </template>
  </section>
</template>
