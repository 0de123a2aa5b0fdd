<script setup lang="ts">
/** A sheet of labels in its proportions: labels that are used already, those that tags go on, and those left
 * over.
 */
import { computed } from "vue";

import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ sheet: Schemas["SheetSize"]; skip: number; tags: number }>();
const page = computed(() => ({
  width: props.sheet.page[0] as number,
  height: props.sheet.page[1] as number,
}));
const cells = computed(() =>
  Array.from({ length: props.sheet.count }, (_, i) => ({
    x: props.sheet.left + (i % props.sheet.across) * (props.sheet.width + props.sheet.gap),
    y: props.sheet.top + Math.floor(i / props.sheet.across) * props.sheet.height,
    is: i < props.skip ? "used" : i < props.skip + props.tags ? "tag" : "left",
  })),
);
const pages = computed(() => Math.ceil((props.skip + props.tags) / props.sheet.count));
</script>

<template>
  <figure class="w-40">
    <svg
      :viewBox="`0 0 ${page.width} ${page.height}`"
      class="block w-full"
      role="img"
      :aria-label="`${tags} tags on ${pages} sheets of ${sheet.count}`"
    >
      <rect
        :width="page.width"
        :height="page.height"
        fill="var(--ground)"
        stroke="var(--line)"
        stroke-width="1.5"
      />
      <g v-for="(one, i) in cells" :key="i" :transform="`translate(${one.x} ${one.y})`">
        <path
          :d="`M${sheet.width * 0.1} 1 H${sheet.width - 1} V${sheet.height - 1} H${sheet.width * 0.1} L1 ${sheet.height * 0.72} V${sheet.height * 0.28} Z`"
          :fill="one.is === 'tag' ? 'var(--ink)' : 'none'"
          :stroke="one.is === 'used' ? 'var(--line)' : 'var(--ink)'"
          stroke-width="1.2"
        />
        <path
          v-if="one.is === 'used'"
          :d="`M${sheet.width * 0.1} 1 L${sheet.width} ${sheet.height}`"
          stroke="var(--soft)"
          stroke-width="1.5"
        />
        <circle
          v-else
          :cx="sheet.width * 0.09"
          :cy="sheet.height / 2"
          r="2.2"
          :fill="one.is === 'tag' ? 'var(--sheet)' : 'none'"
        />
      </g>
    </svg>
    <figcaption class="mt-1 text-[0.92rem] text-soft">
      {{ tags }} tags on {{ pages === 1 ? "one sheet" : `${pages} sheets` }}
    </figcaption>
  </figure>
</template>
