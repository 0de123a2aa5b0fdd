<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** What the scorer believes each sample to be, so that the verdict can tell whether the blinding held. */
import { useQuery } from "@tanstack/vue-query";
import { computed, reactive, ref, watch } from "vue";

import SampleTag from "@/parts/SampleTag.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

type Belief = Schemas["BeliefOf"]["belief"];
const props = defineProps<{ id: string; samples: { id: string; code: string; blind_repeat?: boolean }[] }>();
const path = { params: { path: { trial_id: props.id } } };
const { data } = useQuery({
  queryKey: keys.guesses(computed(() => props.id)),
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/guesses", path)),
});
const believed = reactive<Record<string, Belief>>({});
watch(data, (now) => now?.guesses.forEach((one) => (believed[one.sample] = one.belief)), { immediate: true });
const BELIEFS: { value: Belief; name: string }[] = [
  { value: "treated", name: "treated" },
  { value: "control", name: "control" },
  { value: "unknown", name: "cannot tell" },
];
const open = ref(false);
const kept = ref(false);
const own = computed(() => props.samples.filter((one) => !one.blind_repeat));
const { busy, other, through } = useAct([]);
const keep = () =>
  through(async () => {
    const guesses = own.value.map((one) => ({ sample: one.id, belief: believed[one.id] ?? "unknown" }));
    await answer(api.POST("/api/trials/{trial_id}/guesses", { ...path, body: { guesses } }));
    kept.value = true;
    open.value = false;
  });
</script>

<template>
  <section v-if="data?.asked" class="rule pt-4" aria-label="What you believe">
    <h3 class="text-[1.15rem] font-bold">Could you tell?</h3>
    <p v-if="kept" role="status">Written down. Nobody sees it before the key opens.</p>
    <template v-if="!open">
      <p v-if="!kept" class="text-soft">
        Write down which you believe were treated. The verdict then tells whether the blinding held; nobody
        sees it before.
      </p>
      <button type="button" class="press press-small mt-2" @click="open = true">
        {{ data.guesses.length || kept ? "Change what I believe" : "Write down what I believe" }}
      </button>
    </template>
    <form v-else class="mt-2 grid gap-2" @submit.prevent="keep">
      <fieldset v-for="one in own" :key="one.id" class="grid grid-cols-[8.6rem_1fr] items-center gap-2">
        <legend class="sr-only">{{ one.code }}</legend>
        <SampleTag :code="one.code" />
        <div class="flex gap-1">
          <label
            v-for="belief in BELIEFS"
            :key="belief.value"
            class="belief"
            :class="{ chosen: believed[one.id] === belief.value }"
            ><input
              v-model="believed[one.id]"
              type="radio"
              :name="one.id"
              :value="belief.value"
              class="sr-only"
            />{{ belief.name }}</label
          >
        </div>
      </fieldset>
      <ProblemText :says="other" />
      <p class="flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy">Write it down</button
        ><button type="button" class="press" @click="open = false">Not now</button>
      </p>
    </form>
  </section>
</template>

<style scoped>
.belief {
  flex: 1;
  display: grid;
  place-items: center;
  min-height: 48px;
  border: 2px solid var(--line);
  text-align: center;
  line-height: 1.1;
  cursor: pointer;
}
.chosen {
  background: var(--ink);
  color: var(--sheet);
  border-color: var(--ink);
}
.belief:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
</style>
