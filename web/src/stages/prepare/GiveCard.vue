<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One sample for whoever prepares it: its tag, what it gets, and what it was given. */
import { reactive, ref } from "vue";

import ReadDevice from "@/parts/ReadDevice.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { clock } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";

defineProps<{ row: Schemas["Handed"]; may: boolean; busy: boolean; covered: boolean; zone: string }>();
const emit = defineEmits<{ give: [dose: string, amount: string, note: string, corrects: boolean] }>();
/** The dose whose amount is being written, where it was another than planned. */
const writing = ref<Schemas["GivenDose"] | null>(null);
const said = reactive({ amount: "", note: "" });
function begin(dose: Schemas["GivenDose"]): void {
  writing.value = dose;
  Object.assign(said, { amount: "", note: "" });
}
function keep(): void {
  const { dose, given_times, times } = sure(writing.value);
  emit("give", dose, said.amount, said.note, given_times >= times);
  writing.value = null;
}
</script>

<template>
  <article class="bg-ground p-2.5" :aria-label="`Sample ${row.code}`">
    <div class="flex items-center justify-between gap-3">
      <span class="w-24 flex-none"><SampleTag :code="row.code" class="!min-h-10 bg-sheet" /></span>
      <span class="text-right text-[0.92rem] leading-tight whitespace-nowrap text-soft"
        >place {{ row.place }}<br v-if="row.started_at" /><template v-if="row.started_at"
          >since {{ clock(row.started_at, zone) }}</template
        ></span
      >
    </div>
    <p class="mt-1 text-[1.05rem] leading-snug">
      <b v-if="row.letter" class="code mr-1.5">{{ row.letter }}</b><b>{{ row.treatment }}</b>
    </p>
    <div v-for="dose in row.doses" :key="dose.dose" class="mt-1">
      <p v-if="dose.planned">
        {{ dose.planned }} of {{ dose.product
        }}<template v-if="dose.times > 1">, {{ dose.times }} times</template>
      </p>
      <p v-if="dose.given_times" class="flex gap-2" :class="{ 'font-bold': dose.matters }">
        <svg viewBox="0 0 16 16" class="mt-1 h-4 w-4 flex-none" aria-hidden="true">
          <path d="m2 8 4 5L14 2" fill="none" stroke="currentColor" stroke-width="3" />
        </svg>
        <span
          >{{ dose.off.replace(/\.$/, "") || (dose.planned ? `${dose.given} given` : "given")
          }}<template v-if="dose.times > 1">, {{ dose.given_times }} of {{ dose.times }} times</template
          ><span class="font-normal text-soft"
            >, {{ dose.by }}{{ dose.at ? `, ${clock(dose.at, zone)}` : ""
            }}<template v-if="dose.note">. {{ dose.note }}</template></span
          ></span
        >
      </p>
      <div v-if="may && writing?.dose !== dose.dose" class="no-print mt-1 flex flex-wrap gap-2">
        <button
          v-if="dose.given_times < dose.times || !dose.given_times"
          type="button"
          class="press press-small"
          :class="{ 'press-main': !dose.given_times }"
          :disabled="busy"
          :aria-label="`${row.code} was given ${dose.product || row.treatment} as planned`"
          @click="emit('give', dose.dose, '', '', false)"
        >
          Given
        </button>
        <button
          type="button"
          class="quiet"
          :aria-label="`${row.code} was given otherwise`"
          @click="begin(dose)"
        >
          {{ dose.given_times >= dose.times ? "Correct it" : "Otherwise" }}
        </button>
      </div>
      <form v-if="writing?.dose === dose.dose" class="no-print mt-2 grid gap-2" @submit.prevent="keep">
        <label v-if="dose.planned"
          ><span class="mb-1 block text-[0.9rem] text-soft"
            >Given of {{ dose.product }}, in {{ dose.unit }} if nothing else is said</span
          >
          <input
            v-model="said.amount"
            class="field"
            inputmode="decimal"
            autocomplete="off"
            :placeholder="dose.planned"
          />
        </label>
        <ReadDevice
          v-if="dose.unit"
          small
          :unit="dose.unit"
          :what="`${row.code}, ${dose.product}`"
          @read="
            (one) => {
              said.amount = `${one.value} ${one.unit}`;
              said.note ||= `read from ${one.device}`;
            }
          "
        />
        <label
          ><span class="mb-1 block text-[0.9rem] text-soft">Why, or what was odd</span
          ><input v-model="said.note" class="field" autocomplete="off"
        /></label>
        <div class="flex flex-wrap gap-2">
          <button class="press press-small press-main" :disabled="busy">Note it</button
          ><button type="button" class="quiet" @click="writing = null">Leave it</button>
        </div>
      </form>
    </div>
  </article>
</template>
