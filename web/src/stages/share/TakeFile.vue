<script setup lang="ts">
/** A file to take along: of a small trial it comes at once, of a large one it is made meanwhile, with word of
 * how far it is, and saved when it is ready.
 */
import { computed, onBeforeUnmount, ref } from "vue";

import { addressOf, made, saysOf, type Wanted } from "./madeFile";
import { problemsOf } from "@/shell/api/problems";

const props = defineProps<{
  trial?: string;
  token?: string;
  what: Wanted["what"];
  paper?: Wanted["paper"];
  short?: boolean;
  whole?: boolean;
  main?: boolean;
}>();
const told = ref("");
const problem = ref("");
const going = ref(false);
const left = new AbortController();
onBeforeUnmount(() => left.abort());
const href = computed(() => addressOf(props));

async function take(): Promise<void> {
  if (going.value) return;
  going.value = true;
  problem.value = "";
  try {
    const at = await made(props, (now) => (told.value = saysOf(now)), left.signal);
    if (at) save(at);
  } catch (error) {
    problem.value = problemsOf(error)[0]?.says ?? "";
  } finally {
    going.value = false;
    told.value = "";
  }
}
function save(at: string): void {
  const link = document.createElement("a");
  link.href = at;
  link.download = "";
  link.click();
}
</script>

<template>
  <span class="inline-grid max-w-full justify-items-start gap-1 align-top">
    <a class="press" :class="{ 'press-main': main }" :href="href" download @click.prevent="take"><slot /></a>
    <span v-if="told" role="status" class="max-w-56 text-[0.92rem]">{{ told }}</span>
    <span v-if="problem" role="alert" class="max-w-64 text-[0.92rem] font-bold">{{ problem }}</span>
  </span>
</template>
