<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A published trial: its question, what a reader expects, and only then what came of it. */
import { onBeforeUnmount, onMounted, ref, watch } from "vue";

import TakeFile from "./TakeFile.vue";
import LineUpPart from "@/stages/verdict/LineUpPart.vue";
import { LEVELS } from "@/parts/levels";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { Declined, problemsOf } from "@/shell/api/problems";
import { patiently } from "@/shell/patience";
import FieldTallyMark from "@/shell/frame/FieldTallyMark.vue";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ token: string }>();
const path = { params: { path: { token: props.token } } };
const shown = ref<Schemas["PublishedOut"]>();
const told = ref(false);
const chosen = ref("");
const failed = ref("");
let again = 0;
onBeforeUnmount(() => window.clearTimeout(again));
async function through(ask: () => Promise<Schemas["PublishedOut"]>, then = () => {}): Promise<void> {
  try {
    shown.value = await patiently(ask());
    failed.value = "";
    then();
  } catch (error) {
    failed.value = sure(problemsOf(error)[0]).says;
    // Of a large trial the result may still be on its way.
    const waits = error instanceof Declined && error.status === 409;
    if (waits) again = window.setTimeout(() => void through(ask, then), 3_000);
  }
}
onMounted(() =>
  through(
    () => answer(api.GET("/api/published/{token}", path)),
    // Of a tasting nobody is best: it is read on at once.
    () => shown.value?.asks === false && expect(""),
  ),
);
const chosenOnce = ref(false);
/** The line-up was picked from, passed over, or there is none. */
const lined = ref(false);
function expect(treatment: string): void {
  chosen.value = treatment;
  chosenOnce.value = true;
}
/** Only then what came of it: whoever asks for the result has read it. */
watch(lined, async () => {
  const treatment = chosen.value;
  await through(
    () => answer(api.POST("/api/published/{token}/expected", { ...path, body: { treatment } })),
    () => (told.value = true),
  );
});
</script>

<template>
  <div class="mx-auto max-w-3xl p-4 lg:py-8">
    <header><FieldTallyMark /></header>
    <main class="sheet mt-4 p-5 lg:p-8">
      <p v-if="failed" class="font-bold" role="alert">{{ failed }}</p>
      <template v-if="shown">
        <LongName as="h1" :text="shown.title" />
        <p class="mt-1 text-[1.15rem]">{{ shown.question }}</p>
        <LineUpPart v-if="chosenOnce && !lined" class="mt-6" :token="token" @done="lined = true" />
        <template v-else-if="!chosenOnce">
          <h2 class="mt-6">What do you expect?</h2>
          <p class="text-soft">Say it before you see what came of it. Nobody is asked who they are.</p>
          <ul class="mt-3 grid gap-2">
            <li v-for="(one, i) in shown.treatments" :key="one.key" :data-hue="i % 8">
              <button class="choice" @click="expect(one.key)">
                <span class="letter">{{ one.letter }}</span>{{ one.name }}
              </button>
            </li>
          </ul>
          <button class="quiet mt-3" @click="expect('')">I would rather just read on</button>
        </template>
        <template v-else-if="told">
          <p
            v-for="(one, i) in shown.sentences"
            :key="one"
            class="mt-5 leading-tight font-bold"
            :class="i ? 'text-[1.15rem]' : 'text-[1.6rem]'"
          >
            {{ one }}
          </p>
          <p v-if="shown.level" class="mt-3">
            <b class="border-2 border-ink px-4 py-1">{{ LEVELS[shown.level] }}</b>
          </p>
          <template v-if="shown.readers">
            <h2 class="mt-6">What readers expected</h2>
            <dl class="mt-2 grid gap-2">
              <div
                v-for="(one, i) in shown.treatments"
                :key="one.key"
                class="flex flex-wrap items-center gap-x-4 gap-y-1"
                :data-hue="i % 8"
              >
                <dt class="flex min-w-56 items-center gap-2">
                  <span class="letter">{{ one.letter }}</span>{{ one.name
                  }}{{ one.key === chosen ? ", you too" : "" }}
                </dt>
                <dd class="flex items-center gap-3">
                  <TallyStrokes
                    :solid="Math.min(one.expected, 60)"
                    :rest="0"
                    :label="`${one.expected} expected ${one.name}`"
                  />{{ one.expected }}
                </dd>
              </div>
            </dl>
          </template>
          <p class="mt-6 flex flex-wrap gap-3">
            <a class="press press-main" :href="`/api/published/${token}/report.html`">Read the whole report</a
            ><TakeFile :token="token" what="report">As PDF</TakeFile>
          </p>
        </template>
      </template>
    </main>
  </div>
</template>

<style scoped>
.choice {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  width: 100%;
  min-height: 56px;
  padding: 0.4rem 0.8rem;
  border: 2px solid var(--line);
  text-align: left;
  font-weight: 700;
  cursor: pointer;
}
.choice:hover {
  border-color: var(--ink);
}
.letter {
  display: grid;
  place-items: center;
  min-width: 2rem;
  height: 2rem;
  background: var(--hue);
  color: var(--sheet);
  font-weight: 700;
}
</style>
