<script setup lang="ts">
/** For one person alone: fill, hide, shuffle, code, so that nobody knows and the key can still be found at
 * the
 * end.
 */
import { computed, ref, watch } from "vue";

import UncoverForm from "./UncoverForm.vue";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const path = { trial_id: props.id };
const state = ref<Schemas["ShuffleOut"]>();
const kind = ref<"flasks" | "samples">("flasks");
const sure = ref(false);
const { busy, says, other, through } = useAct(["kind"]);
const load = () =>
  through(async () => {
    state.value = await answer(api.GET("/api/trials/{trial_id}/shuffle", { params: { path } }));
  });
watch(() => props.course.state, load, { immediate: true });
const why = (of: string) => state.value?.ways.find((way) => way.kind === of)?.why_not ?? "";
const word = computed(() => props.course.sample_word);
const many = computed(() => state.value?.fill.length ?? 0);
const steps = computed(() => {
  const letters = state.value?.fill.map((one) => one.letter).join(", ") ?? "";
  if (kind.value === "flasks")
    return [
      `Take ${many.value} flasks of one kind, and fill each with the mix of one treatment, enough for all its ${props.course.sample_words}.`,
      `Write the letter of the treatment (${letters}) under each flask, and cover it with tape that does not come off by itself.`,
      "Look away or ask somebody who does not score to push them round, until you could not say which is which.",
      "Tie the tags below on, from left to right as they now stand.",
      `Record the shuffle. From then on every ${word.value} is given from a flask by its number, and nobody knows what is in it.`,
    ];
  return [
    `Give every ${word.value} its treatment, block by block, and write its letter (${letters}) where it can be covered.`,
    "Cover the letters with tape.",
    "Inside each block, exchange them until you could not say which is which.",
    "Tie on the codes of the block, from left to right as they now stand, and put each in its place.",
    "Record the shuffle. At the end you take the tape off and read the letters in.",
  ];
});
const record = () =>
  through(async () => {
    state.value = await answer(
      api.POST("/api/trials/{trial_id}/shuffle", { params: { path }, body: { kind: kind.value } }),
    );
    await trialChanged(props.id);
  });
async function lifted(now: Schemas["ShuffleOut"]): Promise<void> {
  state.value = now;
  await trialChanged(props.id);
}
</script>

<template>
  <div v-if="state">
    <template v-if="state.done_at">
      <p class="text-[1.3rem] font-bold">
        {{ state.uncovered_at ? "The covers are off." : "Shuffled: nobody knows." }}
      </p>
      <p class="mt-1">
        {{ state.done_by }} shuffled the {{ state.kind }} {{ moment(state.done_at, course.zone) }}.
        <template v-if="!state.uncovered_at"
          >Rounds scored until the covers come off count as self-shuffled.</template
        >
      </p>
      <ul v-if="state.uncovered_at" class="mt-3 grid max-w-3xl grid-cols-2 gap-2 sm:grid-cols-4">
        <li v-for="(letter, code) in state.found" :key="code" class="flex items-center gap-3">
          <SampleTag :code="String(code)" /><b class="code">{{ letter }}</b>
        </li>
      </ul>
      <UncoverForm
        v-else-if="course.may_lead && course.started_at"
        :id="id"
        :state="state"
        @lifted="lifted"
      />
    </template>
    <template v-else>
      <p class="text-[1.3rem] leading-snug font-bold">Alone with this trial? Hide the key from yourself.</p>
      <p class="mt-1 max-w-3xl">
        The app keeps the codes, the tape keeps the letters. Only both together are the key, and both meet at
        the end. Skip this where somebody else prepares.
      </p>
      <template v-if="course.state === 'sealed'">
        <ChoiceRow
          v-model="kind"
          class="mt-4 max-w-3xl"
          legend="What is shuffled"
          :choices="[
            { value: 'flasks', name: 'Flasks', says: 'what is mixed, before it is given' },
            {
              value: 'samples',
              name: `The ${course.sample_words}`,
              says: 'each after it was given its treatment',
            },
          ]"
        />
        <ProblemText :says="why(kind)" />
        <template v-if="!why(kind)">
          <ol class="mt-4 grid max-w-3xl gap-2">
            <li
              v-for="(step, i) in steps"
              :key="step"
              class="rule grid grid-cols-[2.4rem_minmax(0,1fr)] pt-2"
            >
              <b class="text-[1.4rem] leading-none">{{ i + 1 }}</b><span>{{ step }}</span>
            </li>
          </ol>
          <ul class="mt-3 flex max-w-3xl flex-wrap gap-x-6">
            <li v-for="one in state.fill" :key="one.letter">
              <b class="code">{{ one.letter }}</b> {{ one.name }}, for {{ one.samples }}
            </li>
          </ul>
          <div v-if="kind === 'flasks'" class="mt-3">
            <ul class="grid max-w-3xl grid-cols-3 gap-2 sm:grid-cols-5">
              <li v-for="code in state.flasks" :key="code"><SampleTag :code="code" /></li>
            </ul>
            <a
              class="quiet -ml-2 inline-flex items-center"
              :href="`/api/trials/${id}/prints/labels.pdf?flasks=true`"
              download
              >Print these tags</a
            >
          </div>
          <div
            v-for="(codes, block) in kind === 'samples' ? state.codes : {}"
            :key="block"
            class="mt-3 max-w-3xl"
          >
            <h3 v-if="block">{{ block }}</h3>
            <ul class="mt-1 grid grid-cols-3 gap-2 sm:grid-cols-6">
              <li v-for="code in codes" :key="code"><SampleTag :code="code" /></li>
            </ul>
          </div>
          <label class="mt-4 flex min-h-11 items-center gap-3"
            ><input v-model="sure" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> All is covered,
            shuffled and tagged; I could not say which is which</label
          >
          <button type="button" class="press press-main mt-2" :disabled="busy || !sure" @click="record">
            Record the shuffle
          </button>
          <ProblemText :says="says('kind')" />
        </template>
      </template>
      <p v-else class="mt-4 border-l-4 border-line pl-3">
        Exposure has started; shuffling now would lose the key.
      </p>
    </template>
    <ProblemText :says="other" />
  </div>
  <div v-else><ProblemText :says="other" /></div>
</template>
