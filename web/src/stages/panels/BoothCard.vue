<script setup lang="ts">
/** The card that somebody who took part may keep: how they did, and what all found. */
import { onMounted, ref } from "vue";

import { cardOf } from "./booth";
import ProblemText from "@/parts/ProblemText.vue";
import { sure } from "@/parts/sure";
import type { Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";

const props = defineProps<{ token: string }>();
const card = ref<Schemas["Card"]>();
const says = ref("");
onMounted(async () => {
  try {
    card.value = await cardOf(props.token);
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  }
});
const print = () => window.print();
</script>

<template>
  <section class="my-auto">
    <ProblemText :says="says" />
    <template v-if="card">
      <div class="border-2 border-ink p-5">
        <p class="text-soft">{{ card.title }}, {{ card.test.toLowerCase() }}</p>
        <h1 class="mt-2">{{ card.own[0] }}</h1>
        <p v-for="one in card.own.slice(1)" :key="one" class="mt-2 text-[1.1rem]">{{ one }}</p>
        <h2 class="mt-5">What was before you</h2>
        <ol class="mt-1 list-decimal pl-6">
          <li v-for="(one, i) in card.sets" :key="i">{{ one }}</li>
        </ol>
        <h2 class="mt-5">All together</h2>
        <p class="mt-1">{{ card.all }}</p>
      </div>
      <button type="button" class="press no-print mt-4" @click="print">Keep it on paper</button>
    </template>
  </section>
</template>
