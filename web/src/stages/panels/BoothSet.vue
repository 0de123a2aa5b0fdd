<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One set of cups: big codes, one question, and an answer that is locked once it is given. */
import { computed, ref } from "vue";

import CupMedia from "./CupMedia.vue";
import { isWhole, tapped, wayOf, YES, type Booth, type Judgement } from "./booth";
import SampleTag from "@/parts/SampleTag.vue";
import { rightNow } from "@/shell/offline/clock";

const props = defineProps<{
  booth: Booth;
  set: Booth["sets"][number];
  load?: (place: number) => Promise<Blob>;
}>();
const emit = defineEmits<{ lock: [judgement: Judgement] }>();
const way = computed(() => wayOf(props.booth.method));
const chosen = ref<number[]>(way.value === "names" ? props.set.codes.map(() => -1) : []);
const preference = ref<number | null>(null);
const confidence = ref<number | null>(null);
const chips = ref<string[]>([]);
const words = ref("");
/** How often each sound was played: an answer counts once all of them were. */
const heard = ref<number[]>(props.set.codes.map(() => 0));
const listened = computed(
  () => !props.load || props.booth.material !== "sounds" || heard.value.every((times) => times > 0),
);
const grades = ref<(number | null)[][]>(props.booth.attributes.map(() => props.set.codes.map(() => null)));
const graded = computed(() =>
  grades.value.every((own) => own.every((grade, place) => grade !== null || props.set.codes[place] === "R")),
);
const whole = computed(() => isWhole(way.value, chosen.value, props.set.codes.length, props.booth.each_once));
const asksMore = computed(() => props.booth.preference && props.booth.method !== "preference");
const ready = computed(
  () =>
    whole.value &&
    listened.value &&
    graded.value &&
    (!asksMore.value || preference.value !== null) &&
    (!props.booth.confidence || confidence.value !== null),
);
const cups = computed(() =>
  props.set.codes.map((code, place) => ({
    code,
    place,
    reference: code === "R" || (props.booth.method === "abx" && place === 2),
  })),
);
/** X of sounds and pictures is heard or seen above; as a row it would say nothing. */
const shownCups = computed(() =>
  cups.value.filter((one) => !one.reference || props.booth.material === "cups"),
);
/** What each is called: by its code, or by its part in the test. */
const PARTS = ["First", "Second", "X"];
const names = computed(() =>
  props.set.codes.map((code, place) =>
    props.booth.method === "abx" ? sure(PARTS[place]) : code === "R" ? "Reference" : code,
  ),
);
const SURE = ["guessed", "rather guessed", "rather sure", "sure"];
const yes = computed(() => YES[props.booth.method] ?? ["Yes", "No"]);
function typed(a: number, place: number, text: string, most: number): void {
  const value = Number(text.trim());
  sure(grades.value[a])[place] =
    text.trim() && Number.isInteger(value) && value >= 0 && value <= most ? value : null;
}
const lock = () =>
  emit("lock", {
    id: crypto.randomUUID(),
    serving: props.set.id,
    answer: [...chosen.value],
    confidence: confidence.value,
    preference: preference.value,
    grades: grades.value.map((own) => [...own]),
    chips: [...chips.value],
    words: words.value.trim(),
    heard: props.load && props.booth.material === "sounds" ? [...heard.value] : null,
    given_at: rightNow().toISOString(),
  });
</script>

<template>
  <section class="flex grow flex-col">
    <p v-if="booth.words_to_say" class="mt-3 text-soft">{{ booth.words_to_say }}</p>
    <p v-if="set.over" class="mt-3 text-[1.15rem] font-bold">{{ set.over }}</p>
    <h1 class="mt-3">{{ booth.question }}</h1>
    <p v-if="way !== 'yes' && booth.material === 'cups'" class="text-soft">
      Take them in the order shown, the first one on top.
    </p>
    <CupMedia
      v-if="booth.material !== 'cups' && load"
      :material="booth.material"
      :names="names"
      :load="load"
      @heard="(times) => (heard = times)"
    />
    <ul
      v-if="way !== 'grades' && (way !== 'yes' || booth.material === 'cups')"
      class="mt-4 grid gap-2.5"
      :aria-label="booth.question"
    >
      <li v-for="cup in shownCups" :key="cup.code + cup.place">
        <p
          v-if="cup.reference"
          class="flex justify-between border-2 border-line px-4 py-4 text-[1.2rem] font-bold"
        >
          {{ names[cup.place]
          }}<span v-if="cup.code !== 'R' && booth.material === 'cups'" class="code">{{ cup.code }}</span>
        </p>
        <div v-else-if="way === 'names'" class="grid grid-cols-[9rem_1fr] items-center gap-3">
          <SampleTag :code="cup.code" />
          <select v-model.number="chosen[cup.place]" class="field" :aria-label="`What ${cup.code} is`">
            <option :value="-1">which one?</option>
            <option v-for="(name, i) in booth.names" :key="i" :value="i">{{ name }}</option>
          </select>
        </div>
        <SampleTag v-else-if="way === 'yes'" :code="cup.code" />
        <button
          v-else
          type="button"
          class="cup"
          :class="{ chosen: chosen.includes(cup.place) }"
          :aria-pressed="chosen.includes(cup.place)"
          :aria-label="`Cup ${cup.code}`"
          @click="chosen = tapped(way, chosen, cup.place)"
        >
          <span v-if="booth.method !== 'abx' || booth.material === 'cups'" class="code text-[2.1rem]">{{
            cup.code
          }}</span><span v-if="booth.method === 'abx'" class="text-[1.2rem] font-bold">{{
            cup.place ? "X is like the second" : "X is like the first"
          }}</span
          ><b v-if="way === 'order' && chosen.includes(cup.place)" class="text-[1.5rem]">{{
            chosen.indexOf(cup.place) + 1
          }}</b>
        </button>
      </li>
    </ul>
    <div v-if="way === 'yes'" class="mt-3 grid grid-cols-2 gap-2">
      <button
        v-for="(name, i) in yes"
        :key="name"
        type="button"
        class="cup justify-center font-bold"
        :class="{ chosen: chosen[0] === 1 - i }"
        :aria-pressed="chosen[0] === 1 - i"
        @click="chosen = [1 - i]"
      >
        {{ name }}
      </button>
    </div>
    <button
      v-if="booth.method === 'preference'"
      type="button"
      class="cup mt-2.5 justify-center font-bold"
      :class="{ chosen: chosen[0] === -1 }"
      :aria-pressed="chosen[0] === -1"
      @click="chosen = [-1]"
    >
      Neither is better
    </button>
    <template v-if="whole">
      <section
        v-for="(attribute, a) in booth.attributes"
        :key="attribute.name"
        class="mt-6"
        :aria-label="attribute.name"
      >
        <h2>{{ attribute.name }}</h2>
        <p class="text-soft">0 is {{ attribute.low }}, {{ attribute.steps }} is {{ attribute.high }}.</p>
        <fieldset
          v-for="cup in cups.filter((one) => one.code !== 'R')"
          :key="cup.place"
          class="mt-2 border-t border-line pt-2"
        >
          <legend class="sr-only">{{ attribute.name }} of {{ cup.code }}</legend>
          <div class="grid grid-cols-6 gap-1.5" :class="{ 'sm:grid-cols-11': attribute.steps === 10 }">
            <span class="code col-span-full text-[1.3rem]" aria-hidden="true">{{ names[cup.place] }}</span>
            <template v-if="attribute.steps <= 10"
              ><label
                v-for="step in attribute.steps + 1"
                :key="step"
                class="step"
                :class="{ chosen: grades[a]![cup.place] === step - 1 }"
                ><input v-model="grades[a]![cup.place]" type="radio" :value="step - 1" class="sr-only" />{{
                  step - 1
                }}</label
              ></template
            >
            <input
              v-else
              :value="grades[a]![cup.place] ?? ''"
              class="field col-span-3"
              inputmode="numeric"
              :aria-label="`${attribute.name} of ${cup.code}, 0 to ${attribute.steps}`"
              @input="typed(a, cup.place, ($event.target as HTMLInputElement).value, attribute.steps)"
            />
          </div>
        </fieldset>
      </section>
    </template>
    <fieldset v-if="asksMore && whole" class="mt-5">
      <legend class="font-bold">And which do you like best?</legend>
      <div class="mt-1 flex flex-wrap gap-2">
        <label
          v-for="cup in cups.filter((one) => !one.reference)"
          :key="cup.place"
          class="small"
          :class="{ chosen: preference === cup.place }"
          ><input v-model="preference" type="radio" :value="cup.place" class="sr-only" /><span class="code">{{
            cup.code
          }}</span></label
        ><label class="small" :class="{ chosen: preference === -1 }"
          ><input v-model="preference" type="radio" :value="-1" class="sr-only" />none</label
        >
      </div>
    </fieldset>
    <fieldset v-if="booth.confidence && whole" class="mt-5">
      <legend class="font-bold">How sure are you?</legend>
      <div class="mt-1 flex flex-wrap gap-2">
        <label v-for="(name, i) in SURE" :key="name" class="small" :class="{ chosen: confidence === i + 1 }"
          ><input v-model="confidence" type="radio" :value="i + 1" class="sr-only" />{{ name }}</label
        >
      </div>
    </fieldset>
    <fieldset v-if="whole && booth.chips.length" class="mt-5">
      <legend class="font-bold">What did you notice?</legend>
      <div class="mt-1 flex flex-wrap gap-2">
        <label v-for="chip in booth.chips" :key="chip" class="small" :class="{ chosen: chips.includes(chip) }"
          ><input v-model="chips" type="checkbox" :value="chip" class="sr-only" />{{ chip }}</label
        >
      </div>
    </fieldset>
    <label v-if="whole && booth.free_words" class="mt-5 block"
      ><span class="font-bold">In your own words, if you like</span
      ><textarea v-model="words" class="field mt-1 block" rows="2" maxlength="1000" />
    </label>
    <div class="mt-auto pt-6">
      <p v-if="!listened" class="mb-2" role="status">
        Listen to {{ set.codes.length > 1 ? "each of them" : "it" }} at least once.
      </p>
      <button
        type="button"
        class="press press-main min-h-[64px] w-full text-[1.15rem]"
        :disabled="!ready"
        @click="lock"
      >
        Give my answer: it is locked then
      </button>
    </div>
  </section>
</template>

<style scoped>
.cup {
  display: flex;
  width: 100%;
  min-height: 72px;
  align-items: center;
  justify-content: space-between;
  padding: 0 1.4rem;
  border: 2px solid var(--line);
  background: var(--sheet);
}
.small {
  display: grid;
  min-height: 48px;
  min-width: 64px;
  place-items: center;
  padding: 0 0.9rem;
  border: 2px solid var(--line);
  cursor: pointer;
}
.step {
  display: grid;
  min-height: 46px;
  place-items: center;
  border: 2px solid var(--line);
  cursor: pointer;
  font-variant-numeric: tabular-nums;
}
.step:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
.small:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
.chosen {
  background: var(--ink);
  color: var(--sheet);
  border-color: var(--ink);
}
</style>
