<script setup lang="ts">
/** A sample as a tie-on tag: a hole at one end, its code, a stroke for each look taken; its hue and letter
 * once the key
 * is open. */
import { computed } from "vue";

import { placeOf } from "./letters";

const props = defineProps<{
  code: string;
  looks?: number;
  setAside?: string | null;
  letter?: string | null;
  huge?: boolean;
}>();

const hue = computed(() => (props.letter ? placeOf(props.letter) % 8 : undefined));
const strokes = computed(() => Math.min(props.looks ?? 0, 14));
</script>

<template>
  <span class="tag" :class="{ huge, aside: setAside, known: letter }" :data-hue="hue">
    <svg class="hole" viewBox="0 0 12 12" aria-hidden="true"><circle cx="6" cy="6" r="4.4" /></svg>
    <span class="code number">{{ code }}</span>
    <span v-if="letter" class="letter">{{ letter }}</span>
    <span v-if="strokes" class="looks" :class="{ many: strokes > 7 }" aria-hidden="true">
      <i v-for="n in strokes" :key="n" />
    </span>
    <span class="sr-only">
      <template v-if="looks !== undefined">, {{ looks }} looks taken</template>
      <template v-if="setAside">, set aside: {{ setAside }}</template>
    </span>
  </span>
</template>

<style scoped>
.tag {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  min-height: 52px;
  padding: 0 0.6rem 0 0.75rem;
  background: var(--ground);
  clip-path: polygon(14px 0, 100% 0, 100% 100%, 14px 100%, 0 calc(100% - 14px), 0 14px);
  color: var(--ink);
  width: 100%;
}
.hole {
  width: 12px;
  height: 12px;
  flex: none;
}
.hole circle {
  fill: var(--sheet);
  stroke: currentColor;
  stroke-width: 1.8;
}
.number {
  font-size: 1.25rem;
  white-space: nowrap;
}
.looks {
  margin-left: auto;
  display: grid;
  grid-template-columns: repeat(7, auto);
  gap: 3px;
}
.looks:not(.many) {
  display: flex;
}
.looks i {
  width: 4px;
  height: 18px;
  background: currentColor;
}
.many i {
  height: 11px;
}
.known .looks {
  gap: 2px;
}
.known .looks i {
  width: 3px;
}
.aside {
  color: var(--soft);
}
.aside .number {
  text-decoration: line-through 3px;
}
.known {
  background: color-mix(in oklab, var(--hue) 20%, var(--sheet));
  box-shadow: inset 0 -5px 0 var(--hue);
}
.letter {
  display: inline-grid;
  place-items: center;
  min-width: 1.5rem;
  height: 1.5rem;
  padding: 0 0.2rem;
  background: var(--hue);
  color: var(--sheet);
  font-weight: 700;
}
.huge {
  min-height: clamp(84px, 15dvh, 128px);
  padding-left: 1.3rem;
  gap: 1.3rem;
  clip-path: polygon(30px 0, 100% 0, 100% 100%, 30px 100%, 0 calc(100% - 34px), 0 34px);
}
.huge .hole {
  width: 20px;
  height: 20px;
}
.huge .hole circle {
  stroke-width: 1.2;
}
.huge .number {
  font-size: clamp(3.4rem, 17vw, 4.6rem);
  line-height: 1;
}
@media (orientation: landscape) and (max-height: 500px) {
  .huge {
    min-height: 72px;
    padding-left: 1rem;
    gap: 0.7rem;
  }
  .huge .number {
    font-size: 2.7rem;
  }
}
</style>
