<script setup lang="ts">
/** The drawer of bench sums: choose one, write what you have, read the answer with its steps. */
import { computed, onMounted, reactive, ref, watch } from "vue";

import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

/** ``begin``: the sum to lay out first; ``system``: whose gallons and spoons are meant. */
const props = defineProps<{ begin?: string; system?: "metric" | "us" | "imperial"; narrow?: boolean }>();
const sums = ref<Schemas["SumOut"][]>([]);
const chosen = ref(props.begin || "label");
const system = ref(props.system ?? "metric");
const given = reactive<Record<string, string>>({});
const found = ref<Schemas["Answer"]>();
const { busy, says, other, through } = useAct(["given"]);
watch(
  () => props.begin,
  (key) => key && choose(key),
);
onMounted(async () => (sums.value = (await answer(api.GET("/api/bench"))).sums));
const sum = computed(() => sums.value.find((one) => one.key === chosen.value));
function choose(key: string): void {
  chosen.value = key;
  found.value = undefined;
  for (const field of Object.keys(given)) Reflect.deleteProperty(given, field);
}
const work = () =>
  through(async () => {
    found.value = undefined;
    found.value = await answer(
      api.POST("/api/bench", { body: { sum: chosen.value, given: { ...given }, system: system.value } }),
    );
  });
</script>

<template>
  <div class="grid gap-x-6 gap-y-3" :class="{ 'lg:grid-cols-[17rem_minmax(0,1fr)]': !narrow }">
    <nav v-if="!narrow" aria-label="Bench sums">
      <slot name="title" />
      <ul class="max-lg:grid max-lg:grid-cols-2">
        <li v-for="one in sums" :key="one.key">
          <button
            type="button"
            class="min-h-11 w-full py-1.5 text-left"
            :class="{ 'font-bold underline decoration-[3px] underline-offset-4': one.key === chosen }"
            :aria-pressed="one.key === chosen"
            @click="choose(one.key)"
          >
            {{ one.name }}
          </button>
        </li>
      </ul>
    </nav>
    <label v-else class="block"
      ><span class="mb-1 block text-[0.9rem] text-soft">Sum</span>
      <select :value="chosen" class="field" @change="choose(($event.target as HTMLSelectElement).value)">
        <option v-for="one in sums" :key="one.key" :value="one.key">{{ one.name }}</option>
      </select>
    </label>
    <section v-if="sum" :class="{ 'sheet p-5 lg:p-8': !narrow }" :aria-label="sum.name">
      <div class="flex flex-wrap items-baseline justify-between gap-3">
        <h2 :class="narrow ? '' : 'text-[1.4rem]'">{{ sum.name }}</h2>
        <p class="code font-normal text-soft">{{ sum.formula }}</p>
      </div>
      <form class="mt-4 grid max-w-2xl gap-4" @submit.prevent="work">
        <LabelledField
          v-for="one in sum.asks"
          :key="`${sum.key}-${one.key}`"
          :model-value="given[one.key] ?? ''"
          :label="one.label"
          :placeholder="one.example"
          autocomplete="off"
          :says="says(`given.${one.key}`)"
          @update:model-value="(text) => (given[one.key] = text)"
        />
        <label class="block max-w-72"
          ><span class="mb-1 block font-bold">Gallons, pints and spoons are</span>
          <select v-model="system" class="field">
            <option value="metric">metric (a teaspoon is 5 mL)</option>
            <option value="us">US</option>
            <option value="imperial">imperial</option>
          </select>
        </label>
        <button class="press press-main justify-self-start" :disabled="busy">Work it out</button>
      </form>
      <ProblemText :says="other" />
      <div v-if="found" class="rule mt-6 pt-4" role="status">
        <p class="leading-tight font-bold" :class="narrow ? 'text-[1.5rem]' : 'text-[1.9rem]'">
          {{ found.says }}
        </p>
        <ol class="mt-3 grid list-decimal gap-1 pl-5">
          <li v-for="step in found.steps" :key="step">{{ step }}</li>
        </ol>
        <ul v-if="found.advice.length" class="mt-4 grid gap-2 border-l-4 border-ink pl-4" aria-label="Advice">
          <li v-for="one in found.advice" :key="one">{{ one }}</li>
        </ul>
        <slot name="found" :found="found" :sum="sum.name" />
      </div>
    </section>
  </div>
</template>
