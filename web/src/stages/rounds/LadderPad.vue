<script setup lang="ts">
import { shake } from "@/parts/device";
import { sure } from "@/parts/sure";
/** A load that rises step by step: tap “held” until it breaks.  The step it held last is the score. */
import { computed, ref, watch } from "vue";

import { standingOf, type Climb } from "./ladder";
import { honest, type Scale } from "@/parts/amounts";
import TallyStrokes from "@/parts/TallyStrokes.vue";

const props = defineProps<{
  scale: Extract<Scale, { kind: "ladder" }>;
  name: string;
  value: number | null;
}>();
const emit = defineEmits<{ give: [value: number] }>();
const taps = ref<Climb[]>([{ survived: 0, broke: false }]);
const climb = computed(() => sure(taps.value.at(-1)));
const now = computed(() => standingOf(climb.value, props.scale.steps, props.scale.repeats));
const picking = ref(false);
watch(
  () => props.value,
  () => (taps.value = [{ survived: 0, broke: false }]),
);
const load = (value: number) => `${honest(value, 6)} ${props.scale.unit}`;
function tap(next: Climb): void {
  shake(12);
  taps.value.push(next);
}
const bars = computed(() =>
  props.scale.steps.map((step, i) => ({
    step,
    is:
      climb.value.survived >= (i + 1) * props.scale.repeats
        ? "held"
        : step === now.value.load
          ? "now"
          : "ahead",
  })),
);
</script>

<template>
  <div class="flex flex-col gap-3">
    <svg
      :viewBox="`0 0 ${bars.length * 20} 50`"
      class="max-h-20 w-full lying:max-h-8"
      preserveAspectRatio="none"
      role="img"
      :aria-label="`Steps of ${name}: ${now.held ? `${load(now.held)} held` : 'none held yet'}`"
    >
      <rect
        v-for="(bar, i) in bars"
        :key="bar.step"
        :x="i * 20 + 2"
        :y="46 - (42 * (i + 1)) / bars.length"
        width="16"
        :height="(42 * (i + 1)) / bars.length"
        :fill="bar.is === 'held' ? 'var(--ink)' : 'none'"
        :stroke="bar.is === 'ahead' ? 'var(--line)' : 'var(--ink)'"
        :stroke-width="bar.is === 'now' ? 4 : 1.5"
        vector-effect="non-scaling-stroke"
      />
    </svg>
    <template v-if="!picking">
      <template v-if="now.load !== null">
        <p class="text-[2.2rem] leading-none font-bold">
          {{ load(now.load)
          }}<span v-if="now.turns > 1" class="ml-3 text-[1.1rem] font-normal"
            >time {{ now.turn }} of {{ now.turns }}</span
          >
        </p>
        <TallyStrokes
          v-if="now.turns > 1"
          :solid="now.turn - 1"
          :rest="now.turns - now.turn + 1"
          :label="`${now.turn - 1} of ${now.turns} times held`"
        />
        <button
          type="button"
          class="press press-main min-h-[110px] text-[1.6rem] lying:min-h-[64px]"
          @click="tap({ survived: climb.survived + 1, broke: false })"
        >
          It held
        </button>
        <button
          type="button"
          class="press min-h-[72px] text-[1.2rem] lying:min-h-[52px]"
          @click="tap({ survived: climb.survived, broke: true })"
        >
          It broke{{ now.held ? `; ${load(now.held)} was held` : "" }}
        </button>
      </template>
      <template v-else>
        <p class="text-[1.9rem] leading-tight font-bold">
          {{
            now.top
              ? `${load(now.held)}, held to the top`
              : now.held
                ? `${load(now.held)} held`
                : "Held nothing"
          }}
        </p>
        <p v-if="now.top" class="text-soft">It would have held more; nobody knows how much.</p>
        <button
          type="button"
          class="press press-main min-h-[80px] text-[1.2rem]"
          @click="emit('give', now.held)"
        >
          Keep it
        </button>
      </template>
      <div class="flex flex-wrap justify-between gap-2">
        <button type="button" class="quiet" :disabled="taps.length < 2" @click="taps.pop()">
          Take back the last tap
        </button>
        <button type="button" class="quiet" @click="picking = true">Pick the step instead</button>
      </div>
    </template>
    <div v-else class="grid grid-cols-3 gap-2 lying:grid-cols-5" role="group" :aria-label="name">
      <button
        v-for="step in [0, ...scale.steps]"
        :key="step"
        type="button"
        class="press min-h-[56px]"
        :class="{ 'press-main': step === value }"
        :aria-pressed="step === value"
        @click="emit('give', step)"
      >
        {{ step ? honest(step, 6) : "nothing" }}
      </button>
      <button type="button" class="quiet" @click="picking = false">Tap it up</button>
    </div>
  </div>
</template>
