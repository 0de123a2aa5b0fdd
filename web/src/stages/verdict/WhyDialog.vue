<script setup lang="ts">
/** Why a verdict is as strong as it is: the rule, and each of its steps as it was applied. */
import DialogSheet from "@/parts/DialogSheet.vue";
import type { Schemas } from "@/shell/api/client";

defineProps<{ finding: Schemas["Finding"]; level: string; alpha: number }>();
const emit = defineEmits<{ close: [] }>();
const RULE = [
  [
    "Spoiled",
    "no control is left, all that decides was scored by someone who knew the key, or too little was read; a treatment that misses half its readings is left out, the others are judged",
  ],
  ["Nothing to tell apart", "one value, or no event, everywhere"],
  ["Unreplicated", "the leader has one sample, or only one treatment has more"],
  [
    "It depends",
    "the distances differ from place to place (or level to level) by more than chance, and one wins by its own test here, another there",
  ],
  [
    "Clear",
    "the leader beats each other one in its own pair test at the plan’s level, with three samples on each side (two in blocks or pairs), and by at least the margin where one is set",
  ],
  ["As good as equal", "all intervals of the differences lie inside the margin"],
  ["Leaning", "the leader’s largest pair p is at most 0.2: chance alone gives such a lead no more often"],
  [
    "Too close to call",
    "none of these; also where what orders the treatments and their own tests contradict each other, or several share the first place",
  ],
];
</script>

<template>
  <DialogSheet
    :open="true"
    :title="`Why “${level.toLowerCase()}”, ${finding.when}?`"
    wide
    @close="emit('close')"
  >
    <ol class="mt-4 grid list-decimal gap-2 pl-5">
      <li v-for="step in finding.strength.steps" :key="step">{{ step }}</li>
    </ol>
    <p class="mt-3">
      {{ finding.chance.charAt(0).toUpperCase() + finding.chance.slice(1) }}, at the leader’s closest rival.
    </p>
    <h3 class="mt-5 font-bold">The rule, from the top</h3>
    <dl class="mt-2 grid gap-x-4 gap-y-1.5 sm:grid-cols-[11rem_1fr]">
      <template v-for="[name, says] in RULE" :key="name">
        <dt class="font-bold">{{ name }}</dt>
        <dd>{{ says }}</dd>
      </template>
    </dl>
    <p class="mt-3 text-soft">
      Naming the leader needs no adjustment for many pairs: comparing it with each rival at {{ alpha }} keeps
      the risk of naming a wrong best at that level (Gutmann and Maymin 1987; Hsu 1996).
    </p>
    <button class="press press-main mt-6" @click="emit('close')">Close</button>
  </DialogSheet>
</template>
