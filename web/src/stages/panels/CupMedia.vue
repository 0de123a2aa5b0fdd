<script setup lang="ts">
import { sure } from "@/parts/sure";
/** What is heard or seen of a set: buttons that play its sounds in step, or its pictures side by side. */
import { onMounted, onUnmounted, ref } from "vue";

import { Player } from "./sounds";
import ProblemText from "@/parts/ProblemText.vue";
import { problemsOf } from "@/shell/api/problems";

const props = defineProps<{ material: string; names: string[]; load: (place: number) => Promise<Blob> }>();
/** How often each was played. */
const emit = defineEmits<{ heard: [times: number[]] }>();
const times = ref<number[]>(props.names.map(() => 0));
const says = ref("");
const ready = ref(false);
const heard = ref<number | null>(null);
const pictures = ref<string[]>([]);
let player: Player | null = null;

onMounted(async () => {
  try {
    const files = await Promise.all(props.names.map((_, place) => props.load(place)));
    if (props.material === "sounds") {
      player = new Player();
      await player.load(files);
    } else pictures.value = files.map((file) => URL.createObjectURL(file));
    ready.value = true;
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  }
});
onUnmounted(() => {
  void player?.close();
  pictures.value.forEach((one) => URL.revokeObjectURL(one));
});
async function hear(place: number): Promise<void> {
  heard.value = heard.value === place ? null : place;
  await sure(player).hear(heard.value);
  if (heard.value === null) return;
  times.value[place] = sure(times.value[place]) + 1;
  emit("heard", [...times.value]);
}
</script>

<template>
  <div class="mt-3">
    <ProblemText :says="says" />
    <p v-if="!ready && !says" role="status">Loading …</p>
    <div v-else-if="material === 'sounds' && ready" class="grid gap-2" role="group" aria-label="Listen">
      <p v-if="names.length > 1" class="text-soft">
        They run in step: change between them as often as you like.
      </p>
      <div class="grid gap-2" :style="{ gridTemplateColumns: `repeat(${names.length}, minmax(0, 1fr))` }">
        <button
          v-for="(name, place) in names"
          :key="name + place"
          type="button"
          class="play"
          :class="{ on: heard === place }"
          :aria-pressed="heard === place"
          :aria-label="`Listen to ${name}`"
          @click="hear(place)"
        >
          <span v-if="times[place]" class="sr-only">heard</span
          ><svg viewBox="0 0 24 24" class="mx-auto h-7 w-7" aria-hidden="true">
            <path
              :d="heard === place ? 'M6 5h4v14H6z M14 5h4v14h-4z' : 'M7 4l13 8-13 8z'"
              fill="currentColor"
            /></svg
          ><span class="code text-[1.2rem]">{{ name }}</span
          ><span class="dot" :class="{ played: times[place] }" aria-hidden="true" />
        </button>
      </div>
    </div>
    <ul
      v-else-if="ready"
      class="grid grid-cols-2 gap-2"
      :class="{ 'sm:grid-cols-3': pictures.length === 3 }"
      aria-label="Pictures"
    >
      <li v-for="(one, place) in pictures" :key="one">
        <img :src="one" :alt="`Picture ${names[place]}`" class="w-full border-2 border-line" /><span
          class="code block text-center text-[1.2rem]"
          >{{ names[place] }}</span
        >
      </li>
    </ul>
  </div>
</template>

<style scoped>
.play {
  min-height: 84px;
  border: 2px solid var(--line);
  background: var(--sheet);
}
.dot {
  display: block;
  width: 26px;
  height: 4px;
  margin: 5px auto 0;
  background: var(--line);
}
.played {
  background: currentcolor;
}
.on {
  background: var(--ink);
  color: var(--sheet);
  border-color: var(--ink);
}
</style>
