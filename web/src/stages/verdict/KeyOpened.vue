<script setup lang="ts">
/** The moment the key opens: what people foresaw, then colour comes into the board, treatment by treatment,
 * then the answer in one sentence.
 */
import { computed, onBeforeUnmount, onMounted, ref } from "vue";

import HuedSentence from "./HuedSentence.vue";
import { boardsOf } from "@/parts/boards";
import SampleTag from "@/parts/SampleTag.vue";
import type { Schemas } from "@/shell/api/client";
import { useBoard } from "@/shell/query";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"]; verdict: Schemas["VerdictOut"] }>();
const emit = defineEmits<{ on: [] }>();
const { data: board } = useBoard(() => props.id);
const groups = computed(() => boardsOf(board.value?.tags ?? [], props.course));
/** How many treatments have shown their colour. */
const shown = ref(0);
const total = computed(() => props.verdict.treatments.length);
const all = computed(() => shown.value >= total.value);
const coloured = (letter: string | null) =>
  letter && letter.charCodeAt(0) - 65 < shown.value ? letter : null;
/** Where instruments are held against each other, what is said of them; else of the first outcome. */
const sentence = computed(() => props.verdict.instruments?.sentences[0] ?? main.value?.sentence);
const main = computed(() => {
  const first = props.verdict.outcomes.find((one) => one.primary) ?? props.verdict.outcomes[0];
  return props.verdict.findings.find((one) => one.outcome === first?.key && one.checkpoint === null);
});
let timer: ReturnType<typeof setInterval> | undefined;
onMounted(() => {
  if (window.matchMedia("(prefers-reduced-motion: reduce)").matches) shown.value = total.value;
  else timer = setInterval(() => (all.value ? clearInterval(timer) : (shown.value += 1)), 900);
});
onBeforeUnmount(() => clearInterval(timer));
</script>

<template>
  <section class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8" aria-label="The key is open">
    <LongName class="text-soft" :text="verdict.title" />
    <h1>The key is open.</h1>
    <dl v-if="verdict.predictions.length" class="mt-4 grid max-w-3xl gap-2 border-l-4 border-ink pl-4">
      <div v-for="one in verdict.predictions" :key="one.by">
        <dt class="inline font-bold">{{ one.by }} foresaw:</dt>
        <dd class="inline">{{ one.text }}</dd>
      </div>
    </dl>
    <p v-else class="mt-3 text-soft">Nobody wrote down what they foresaw.</p>
    <ol class="mt-5 flex flex-wrap gap-x-6 gap-y-2" aria-label="What each letter stands for">
      <li
        v-for="(one, i) in verdict.treatments"
        :key="one.letter"
        class="come flex items-center gap-2"
        :class="{ there: i < shown }"
        :data-hue="i % 8"
      >
        <span
          class="grid h-9 min-w-9 place-items-center bg-(--hue) px-1 text-[1.15rem] font-bold text-sheet"
          >{{ one.letter }}</span><b>{{ one.name }}</b>
      </li>
    </ol>
    <div class="mt-5 grid gap-x-8 gap-y-4" :class="{ 'lg:grid-cols-2': groups.length > 1 }">
      <section
        v-for="group in groups"
        :key="group.key"
        class="min-w-0"
        :aria-label="group.name || 'All samples'"
      >
        <h2 v-if="group.name" class="border-b-2 border-ink pb-1">{{ group.name }}</h2>
        <ul
          class="mt-2 grid gap-2"
          :style="{
            gridTemplateColumns: group.columns
              ? `repeat(${group.columns}, minmax(104px, 1fr))`
              : 'repeat(auto-fill, minmax(120px, 1fr))',
          }"
        >
          <li v-for="tag in group.tags" :key="tag.id" class="turn">
            <SampleTag :code="tag.code" :letter="coloured(tag.letter)" :set-aside="tag.set_aside" />
          </li>
        </ul>
      </section>
    </div>
    <div class="come mt-7 max-w-4xl border-t-2 border-ink pt-4" :class="{ there: all }" aria-live="polite">
      <p v-if="sentence && all" class="text-[1.7rem] leading-tight font-bold lg:text-[2.1rem]">
        <HuedSentence :text="sentence" :treatments="verdict.treatments" />
      </p>
    </div>
    <p class="mt-5 flex flex-wrap gap-3">
      <button class="press press-main" @click="emit('on')">Read the whole verdict</button>
      <button v-if="!all" class="quiet" @click="shown = total">Show all at once</button>
    </p>
  </section>
</template>

<style scoped>
.come {
  opacity: 0;
  transition: opacity 0.7s;
}
.there {
  opacity: 1;
}
.turn :deep(.tag) {
  transition:
    background-color 0.7s,
    box-shadow 0.7s;
}
@media (prefers-reduced-motion: reduce) {
  .come,
  .turn :deep(.tag) {
    transition: none;
  }
}
</style>
