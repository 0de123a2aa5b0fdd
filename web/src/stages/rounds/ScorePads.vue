<script setup lang="ts">
/** What a score is given with: pads for grades and pass or fail, a field for numbers. */
import { computed, defineAsyncComponent, onMounted, onUnmounted, ref, useId, watch } from "vue";

import CountPad from "./CountPad.vue";
import CurveFields from "./CurveFields.vue";
import LadderPad from "./LadderPad.vue";
import PercentPad from "./PercentPad.vue";
import type { Given, How, Outcome } from "./useRound";
import BenchDrawer from "@/parts/BenchDrawer.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { unitOf } from "@/parts/amounts";
import { typed } from "@/parts/typed";
import type { Schemas } from "@/shell/api/client";
import { isAlone } from "@/shell/shortcuts";

const ReadDevice = defineAsyncComponent(() => import("@/parts/ReadDevice.vue"));
const props = defineProps<{
  outcome: Outcome;
  value: number | null;
  words?: string;
  responses?: (number | null)[] | null;
  trial?: string;
  anchors?: Map<number, string>;
}>();
const emit = defineEmits<{ give: [given: Given, how?: How] }>();

const pads = computed(() => {
  const scale = props.outcome.scale;
  if (scale.kind === "grade")
    return [...scale.levels].reverse().map((level) => ({
      value: level.value,
      key: level.label,
      label: level.label,
      words: level.anchor,
      swatch: "",
    }));
  if (scale.kind === "passfail")
    return [
      { value: 1, key: "1", label: scale.pass_word, words: "", swatch: "" },
      { value: 0, key: "0", label: scale.fail_word, words: "", swatch: "" },
    ];
  if (scale.kind === "event")
    return [
      { value: 1, key: "1", label: "Seen", words: scale.what, swatch: "" },
      { value: 0, key: "0", label: "Not yet", words: "", swatch: "" },
    ];
  if (scale.kind === "shade")
    return scale.steps.flatMap((step, i) => [
      { value: i + 1, key: String(i + 1), label: String(i + 1), words: step.label, swatch: step.swatch },
      ...(scale.between && i < scale.steps.length - 1
        ? [{ value: i + 1.5, key: "", label: `${i + 1}½`, words: "in between", swatch: "" }]
        : []),
    ]);
  return null;
});
const vFocus = { mounted: (input: HTMLInputElement) => input.focus() };
const text = ref("");
const said = ref(props.words ?? "");
function note(): void {
  if (said.value.trim()) emit("give", said.value.trim());
  else says.value = "There are no words yet; “Later” leaves it for now.";
}
const says = ref("");
const told = useId();
/** How the number in the field came about, as long as it stands as it came. */
const came = ref<{ text: string; how: How } | null>(null);
function fill(value: number, how: How): void {
  text.value = String(value);
  came.value = { text: text.value, how };
  says.value = "";
}
const read = (reading: Schemas["DeviceReadingOut"]) =>
  fill(reading.value, { source: "device", device: reading.device });
watch(
  () => [props.outcome, props.value],
  () => {
    text.value = props.value === null ? "" : String(props.value);
    said.value = props.words ?? "";
    says.value = "";
    came.value = null;
  },
  { immediate: true },
);

function submit(): void {
  const value = typed(text.value, props.outcome.scale);
  if (typeof value === "string") says.value = value;
  else emit("give", value, came.value?.text === text.value ? came.value.how : undefined);
}
function press(event: KeyboardEvent): void {
  if (!isAlone(event)) return;
  const pad = pads.value?.find((one) => one.key && one.key.toLowerCase() === event.key.toLowerCase());
  if (pad) {
    event.preventDefault();
    emit("give", pad.value);
  }
}
onMounted(() => window.addEventListener("keydown", press));
onUnmounted(() => window.removeEventListener("keydown", press));
</script>

<template>
  <div
    v-if="pads"
    class="grid auto-rows-fr gap-2 lying:gap-1.5"
    :class="pads.length > 8 ? 'lying:grid-cols-3' : pads.length > 4 ? 'lying:grid-cols-2' : ''"
    role="group"
    :aria-label="outcome.name"
  >
    <button
      v-for="pad in pads"
      :key="pad.value"
      class="pad"
      :class="{ given: pad.value === value }"
      :aria-pressed="pad.value === value"
      @click="emit('give', pad.value)"
    >
      <svg v-if="pad.swatch" viewBox="0 0 44 44" class="h-11 w-11 flex-none" aria-hidden="true">
        <rect width="44" height="44" :fill="pad.swatch" stroke="currentColor" stroke-width="3" />
      </svg>
      <span class="label" :class="{ alone: !pad.words }">{{ pad.label }}</span>
      <span v-if="pad.words" class="text-left">{{ pad.words }}</span>
      <img
        v-if="anchors?.get(pad.value)"
        :src="`/api/photos/${anchors.get(pad.value)}.jpg?small=true`"
        alt=""
        class="-my-1 -mr-4 ml-auto h-[60px] w-20 flex-none object-cover lying:-mr-2 lying:h-12 lying:w-14"
      />
    </button>
  </div>
  <CountPad
    v-else-if="outcome.scale.kind === 'count'"
    :scale="outcome.scale"
    :name="outcome.name"
    :value="value"
    @give="(given) => emit('give', given)"
  />
  <PercentPad
    v-else-if="outcome.scale.kind === 'percent'"
    :scale="outcome.scale"
    :name="outcome.name"
    :value="value"
    @give="(given) => emit('give', given)"
  />
  <LadderPad
    v-else-if="outcome.scale.kind === 'ladder'"
    :scale="outcome.scale"
    :name="outcome.name"
    :value="value"
    @give="(given) => emit('give', given)"
  />
  <CurveFields
    v-else-if="outcome.scale.kind === 'curve'"
    :scale="outcome.scale"
    :name="outcome.name"
    :responses="responses ?? null"
    @give="(given) => emit('give', given)"
  />
  <form v-else-if="outcome.scale.kind === 'note'" class="flex flex-col gap-3" @submit.prevent="note">
    <label
      ><span class="mb-1 block">{{ outcome.scale.prompt || outcome.name }}</span
      ><textarea
        v-model="said"
        v-focus
        class="field block"
        rows="4"
        :aria-invalid="says ? 'true' : undefined"
        :aria-describedby="told"
      />
    </label>
    <ProblemText :id="told" :says="says" />
    <button class="press press-main min-h-[64px] text-[1.15rem]">Keep it</button>
  </form>
  <form v-else class="flex flex-col gap-3" @submit.prevent="submit">
    <label class="flex items-baseline gap-3 border-b-[3px] border-ink bg-ground px-4 py-2">
      <span class="sr-only">{{ outcome.name }}</span>
      <input
        v-model="text"
        v-focus
        class="code w-full min-w-0 bg-transparent text-[3rem] leading-tight outline-none"
        inputmode="decimal"
        autocomplete="off"
        enterkeyhint="next"
        :aria-invalid="says ? 'true' : undefined"
        :aria-describedby="told"
      />
      <span class="text-[1.4rem] whitespace-nowrap">{{ unitOf(outcome.scale) }}</span>
    </label>
    <ProblemText :id="told" :says="says" />
    <p v-if="came?.text === text && came.how.device" class="text-soft">{{ came.how.device }}</p>
    <div v-if="outcome.scale.kind === 'measurement'" class="flex flex-wrap items-center gap-2">
      <ReadDevice :unit="outcome.scale.unit" :what="outcome.name" @read="read" />
      <BenchDrawer
        :field="outcome.name"
        :unit="outcome.scale.unit"
        :trial="trial"
        begin="change"
        @take="(found) => fill(found.value, { reason: found.working.slice(0, 500) })"
      />
    </div>
    <button class="press press-main min-h-[64px] text-[1.15rem]">Keep it</button>
  </form>
</template>

<style scoped>
.pad {
  display: flex;
  align-items: center;
  gap: 1.1rem;
  min-height: 60px;
  padding: 0.2rem 1rem;
  border: 2px solid var(--line);
  background: var(--sheet);
}
@media (orientation: landscape) and (max-height: 500px) {
  .pad {
    min-height: 48px;
    gap: 0.6rem;
    padding: 0 0.6rem;
    line-height: 1.15;
  }
}
.pad .label {
  font-size: 1.6rem;
  font-weight: 700;
  min-width: 1.2rem;
}
.pad .alone {
  margin: auto;
}
.pad:active,
.given {
  background: var(--ink);
  color: var(--sheet);
  border-color: var(--ink);
}
</style>
