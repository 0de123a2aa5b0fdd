<script setup lang="ts">
/** To a place of the reader's own newest trial that is in a state to have it: where the guide leads. */
import { computed, watch } from "vue";
import { useRouter } from "vue-router";

import NothingHere from "@/parts/NothingHere.vue";
import { useShelf } from "@/shell/query";

const props = defineProps<{ place: string[] }>();
const router = useRouter();
const { data: shelf } = useShelf();
type State = "draft" | "sealed" | "running" | "opened";
/** In which state of a trial a place has something to show. */
const WHERE: Record<string, { states: State[]; needs: string }> = {
  plan: { states: ["draft"], needs: "is being planned" },
  panels: { states: ["running", "sealed", "opened", "draft"], needs: "you are in" },
  log: { states: ["running", "sealed", "opened"], needs: "is running" },
  training: { states: ["running", "sealed"], needs: "is running" },
  agreement: { states: ["opened", "running"], needs: "was scored" },
  verdict: { states: ["opened", "running"], needs: "is over" },
  "line-up": { states: ["opened"], needs: "is over" },
};
const place = computed(() => WHERE[props.place[0] ?? ""]);
const trial = computed(() => {
  const own = shelf.value?.trials ?? [];
  for (const state of place.value?.states ?? []) {
    const found = own.find((one) => one.state === state && (state !== "draft" || one.role === "lead"));
    if (found) return found;
  }
  return undefined;
});
watch(
  trial,
  (found) => {
    if (found) void router.replace(`/trials/${found.id}/${props.place.join("/")}`);
  },
  { immediate: true },
);
</script>

<template>
  <main class="p-4 lg:p-8">
    <NothingHere v-if="!place" says="There is no page at this address." />
    <NothingHere
      v-else-if="shelf && !trial"
      :says="`No trial of yours ${place.needs.replace('you are in', 'is here')} yet. Begin one on your shelf; the page opens there.`"
    />
  </main>
</template>
