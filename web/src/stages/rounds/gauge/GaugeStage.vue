<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A photo to mark: what is measured, where its light is taken from, a known length; and over it what was
 * counted.
 */
import { computed, ref } from "vue";

import { box, drawn, grown, moved, round, type Marks, type Point, type Region } from "./marking";
import type { Tried } from "./useGauge";

export type Tool = "round" | "outline" | "area" | "length" | "counts" | "ignores" | "step";
const props = defineProps<{
  photo: string;
  width: number;
  height: number;
  tool: Tool;
  tried?: Tried;
  bare: boolean;
}>();
const marks = defineModel<Marks>("marks", { required: true });
const emit = defineEmits<{ pick: [x: number, y: number] }>();
const frame = ref<SVGSVGElement>();
const from = ref<Point>();
const to = ref<Point>();
/** The points of an outline that is not closed yet. */
const open = ref<Point[]>([]);
const picks = computed(() => ["counts", "ignores", "step"].includes(props.tool));
const W = 1000;
const H = computed(() => (W * props.height) / props.width);

function at(event: PointerEvent): Point {
  const seen = sure(frame.value).getBoundingClientRect();
  return [
    Math.min(1, Math.max(0, (event.clientX - seen.left) / seen.width)),
    Math.min(1, Math.max(0, (event.clientY - seen.top) / seen.height)),
  ];
}
function down(event: PointerEvent): void {
  if (event.button) return;
  const point = at(event);
  if (picks.value) {
    emit("pick", ...point);
    return;
  }
  if (props.tool === "outline") {
    const first = open.value[0];
    if (first && open.value.length > 2 && Math.hypot(first[0] - point[0], first[1] - point[1]) < 0.025)
      close();
    else open.value.push(point);
    return;
  }
  (event.target as Element).setPointerCapture(event.pointerId);
  from.value = to.value = point;
}
const move = (event: PointerEvent) => {
  if (from.value) to.value = at(event);
};
function up(): void {
  if (!from.value || !to.value) return;
  if (props.tool === "length") {
    if (Math.hypot(from.value[0] - to.value[0], from.value[1] - to.value[1]) > 0.01)
      marks.value = {
        ...marks.value,
        length: { start: from.value, end: to.value, mm: marks.value.length?.mm ?? 50 },
      };
  } else {
    const made = props.tool === "area" ? box(from.value, to.value) : round(from.value, to.value);
    if (made)
      marks.value = props.tool === "area" ? { ...marks.value, area: made } : { ...marks.value, thing: made };
  }
  from.value = to.value = undefined;
}
function close(): void {
  if (open.value.length > 2) marks.value = { ...marks.value, thing: { kind: "polygon", points: open.value } };
  open.value = [];
}
const growing = computed<Region | null>(() =>
  from.value && to.value && props.tool !== "length"
    ? props.tool === "area"
      ? box(from.value, to.value)
      : round(from.value, to.value)
    : null,
);
const MOVES: Record<string, [number, number]> = {
  ArrowLeft: [-0.01, 0],
  ArrowRight: [0.01, 0],
  ArrowUp: [0, -0.01],
  ArrowDown: [0, 0.01],
};
/** By keyboard: arrows move the mark, plus and minus change its size. */
function key(event: KeyboardEvent): void {
  const step = MOVES[event.key];
  const factor = { "+": 1.05, "=": 1.05, "-": 1 / 1.05 }[event.key];
  if (event.key === "Enter" && open.value.length) {
    close();
    return;
  }
  if (!step && !factor) return;
  event.preventDefault();
  const change = (region: Region) => (step ? moved(region, ...step) : grown(region, sure(factor)));
  if (props.tool === "area" && marks.value.area)
    marks.value = { ...marks.value, area: change(marks.value.area) };
  else marks.value = { ...marks.value, thing: change(marks.value.thing) };
}
const card = computed(() =>
  props.tried?.card.length
    ? `M${props.tried.card.map(([x, y]) => `${sure(x) * W} ${sure(y) * H.value}`).join("L")}z`
    : "",
);
defineExpose({ close, open });
</script>

<template>
  <div class="stage" :style="{ aspectRatio: `${width} / ${height}` }">
    <img :src="`/api/photos/${photo}.jpg`" alt="" draggable="false" />
    <svg
      ref="frame"
      :viewBox="`0 0 ${W} ${H}`"
      tabindex="0"
      role="application"
      :class="picks ? 'cursor-crosshair' : 'cursor-cell'"
      aria-label="The photo. Drag to mark; arrow keys move the mark, plus and minus change its size."
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
      @keydown="key"
    >
      <image
        v-if="tried && !bare"
        :href="`data:image/png;base64,${tried.overlay}`"
        :x="tried.box[0]! * W"
        :y="tried.box[1]! * H"
        :width="(tried.box[2]! - tried.box[0]!) * W"
        :height="(tried.box[3]! - tried.box[1]!) * H"
        preserveAspectRatio="none"
        class="pointer-events-none"
      />
      <g class="pointer-events-none">
        <template v-if="card">
          <path :d="card" class="halo" />
          <path :d="card" class="line" />
        </template>
        <path :d="drawn(marks.thing, W, H)" class="halo" />
        <path :d="drawn(marks.thing, W, H)" class="line" stroke-dasharray="10 7" />
        <template v-if="marks.area && (marks.reference === 'grey' || marks.reference === 'white')">
          <path :d="drawn(marks.area, W, H)" class="halo" />
          <path :d="drawn(marks.area, W, H)" class="line" />
        </template>
        <template v-if="marks.length">
          <line
            v-for="one in ['halo', 'line']"
            :key="one"
            :class="one"
            :x1="marks.length.start[0]! * W"
            :y1="marks.length.start[1]! * H"
            :x2="marks.length.end[0]! * W"
            :y2="marks.length.end[1]! * H"
          />
        </template>
        <template v-if="growing">
          <path :d="drawn(growing, W, H)" class="halo" />
          <path :d="drawn(growing, W, H)" class="line" />
        </template>
        <line
          v-if="tool === 'length' && from && to"
          class="line"
          :x1="from[0] * W"
          :y1="from[1] * H"
          :x2="to[0] * W"
          :y2="to[1] * H"
        />
        <polyline
          v-if="open.length"
          class="line"
          :points="open.map(([x, y]) => `${x * W},${y * H}`).join(' ')"
        />
        <circle
          v-for="(point, i) in open"
          :key="i"
          :cx="point[0] * W"
          :cy="point[1] * H"
          :r="i ? 5 : 10"
          class="dot"
        />
      </g>
    </svg>
  </div>
</template>

<style scoped>
.stage {
  position: relative;
  width: 100%;
  background: var(--ground);
  user-select: none;
}
.stage img,
.stage svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.stage svg {
  touch-action: none;
}
.halo,
.line {
  fill: none;
  vector-effect: non-scaling-stroke;
}
.halo {
  stroke: #fff;
  stroke-width: 5;
}
.line {
  stroke: #14201b;
  stroke-width: 2.5;
}
.dot {
  fill: #fff;
  stroke: #14201b;
  stroke-width: 2.5;
}
</style>
