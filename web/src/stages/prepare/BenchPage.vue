<script setup lang="ts">
/** The drawer of bench sums: choose one, write what you have, read the answer with its steps. */
import { computed, onMounted, reactive, ref } from "vue";

import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import FieldTallyMark from "@/shell/frame/FieldTallyMark.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const sums = ref<Schemas["SumOut"][]>([]);
const chosen = ref("label");
const system = ref<"metric" | "us" | "imperial">("metric");
const given = reactive<Record<string, string>>({});
const found = ref<Schemas["Answer"]>();
const { busy, says, other, through } = useAct(["given"]);
onMounted(async () => (sums.value = (await answer(api.GET("/api/bench"))).sums));
const sum = computed(() => sums.value.find((one) => one.key === chosen.value));
function choose(key: string): void {
  chosen.value = key;
  found.value = undefined;
  for (const field of Object.keys(given)) delete given[field];
}
const work = () => through(async () => {
  found.value = undefined;
  found.value = await answer(api.POST("/api/bench", { body: { sum: chosen.value, given: { ...given }, system: system.value } }));
});
</script>

<template>
  <div class="mx-auto max-w-6xl px-4 pb-10">
    <header class="flex items-center justify-between py-4"><RouterLink to="/" class="no-underline" aria-label="Field Tally, to your shelf"><FieldTallyMark /></RouterLink><RouterLink to="/" class="quiet">Shelf</RouterLink></header>
    <main class="grid gap-6 lg:grid-cols-[17rem_minmax(0,1fr)]">
      <nav aria-label="Bench sums">
        <h1 class="mb-2 text-[1.4rem]">Bench sums</h1>
        <ul class="max-lg:grid max-lg:grid-cols-2">
          <li v-for="one in sums" :key="one.key"><button type="button" class="min-h-11 w-full py-1.5 text-left" :class="{ 'font-bold underline decoration-[3px] underline-offset-4': one.key === chosen }" :aria-pressed="one.key === chosen" @click="choose(one.key)">{{ one.name }}</button></li>
        </ul>
      </nav>
      <section v-if="sum" class="sheet p-5 lg:p-8" :aria-label="sum.name">
        <div class="flex flex-wrap items-baseline justify-between gap-3"><h2 class="text-[1.4rem]">{{ sum.name }}</h2><p class="code font-normal text-soft">{{ sum.formula }}</p></div>
        <form class="mt-4 grid max-w-2xl gap-4" @submit.prevent="work">
          <LabelledField v-for="one in sum.asks" :key="`${sum.key}-${one.key}`" :model-value="given[one.key] ?? ''" :label="one.label" :placeholder="one.example" autocomplete="off" :says="says(`given.${one.key}`)" @update:model-value="(text) => (given[one.key] = text)" />
          <label class="block max-w-72"><span class="mb-1 block font-bold">Gallons, pints and spoons are</span>
            <select v-model="system" class="field"><option value="metric">metric (a teaspoon is 5 mL)</option><option value="us">US</option><option value="imperial">imperial</option></select>
          </label>
          <button class="press press-main justify-self-start" :disabled="busy">Work it out</button>
        </form>
        <ProblemText :says="other" />
        <div v-if="found" class="rule mt-6 pt-4" role="status">
          <p class="text-[1.9rem] leading-tight font-bold">{{ found.says }}</p>
          <ol class="mt-3 grid list-decimal gap-1 pl-5"><li v-for="step in found.steps" :key="step">{{ step }}</li></ol>
          <ul v-if="found.advice.length" class="mt-4 grid gap-2 border-l-4 border-ink pl-4" aria-label="Advice"><li v-for="one in found.advice" :key="one">{{ one }}</li></ul>
        </div>
      </section>
    </main>
  </div>
</template>
