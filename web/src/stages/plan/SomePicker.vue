<script setup lang="ts">
/** Which samples an outcome or a look belongs to: all of them, until somebody says otherwise. */
import { computed, ref } from "vue";

import type { Some } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import PickMany from "@/parts/PickMany.vue";
import ProblemText from "@/parts/ProblemText.vue";

const only = defineModel<Some>({ required: true });
const props = defineProps<{ at: string; what: string; plan: Plan; work: PlanAtWork }>();
const narrowed = computed(() => Object.values(only.value).some((keys) => keys.length));
const shown = ref(narrowed.value);
/** Where there are groups, single treatments are shown once somebody asks for them. */
const asked = ref(false);
const singles = computed(() => !props.plan.groups.length || asked.value || only.value.treatments.length > 0);
const named = (all: { key: string; name: string }[], word: string) =>
  all.map((one, i) => ({ key: one.key, name: one.name.trim() || `${word} ${i + 1}` }));
const lists = computed(() => [
  { part: "groups" as const, title: "Only these groups", options: named(props.plan.groups, "Group") },
  {
    part: "treatments" as const,
    title: props.plan.groups.length ? "and these treatments" : "Only these treatments",
    options: singles.value ? named(props.plan.treatments, "Treatment") : [],
  },
  {
    part: "blocks" as const,
    title: "Only in these places",
    options: ["blocks", "split"].includes(props.plan.layout.kind)
      ? named(props.plan.layout.blocks, "Place")
      : [],
  },
  {
    part: "kinds" as const,
    title: "Only this kind",
    options: props.plan.kinds.map((name) => ({ key: name, name })),
  },
]);
function all(): void {
  only.value = { treatments: [], groups: [], blocks: [], kinds: [] };
  shown.value = false;
}
</script>

<template>
  <div>
    <button
      v-if="!shown"
      type="button"
      class="quiet -ml-2 text-[0.9rem]"
      :aria-label="`${what}: for some only`"
      @click="shown = true"
    >
      for all {{ work.sample.value.many }}; for some only
    </button>
    <fieldset v-else class="grid gap-3 border-l-4 border-line py-1 pl-4">
      <legend class="sr-only">{{ what }}: which {{ work.sample.value.many }}</legend>
      <div v-for="list in lists.filter((one) => one.options.length)" :key="list.part">
        <p class="mb-1 text-[0.9rem] text-soft">{{ list.title }}</p>
        <PickMany v-model="only[list.part]" :label="`${what}: ${list.title}`" :options="list.options" />
      </div>
      <button
        v-if="!singles"
        type="button"
        class="quiet -ml-2 justify-self-start text-[0.9rem]"
        :aria-label="`${what}: single treatments, too`"
        @click="asked = true"
      >
        single treatments, too
      </button>
      <p v-if="only.treatments.length || only.groups.length" class="text-[0.92rem]">
        Whoever scores sees which {{ work.sample.value.many }} these are, and so which belong together.
      </p>
      <button type="button" class="quiet -ml-2 justify-self-start text-[0.9rem]" @click="all">
        For all {{ work.sample.value.many }}
      </button>
    </fieldset>
    <ProblemText :says="work.says(at)" />
  </div>
</template>
