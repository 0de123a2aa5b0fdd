<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Each sample as a dot, or columns that count very many; its treatment's mean with the interval in which
 * the true mean lies; one row a treatment.
 */
import { scaleLinear } from "d3-scale";
import { computed, ref, useId } from "vue";

import { columned, stacked } from "./stacked";
import { amount, honest, isShare, unitOf, type Scale, meanOf, tickWord } from "@/parts/amounts";
import { useWidth } from "@/shell/width";
import WideTable from "@/parts/WideTable.vue";

export interface DotRow {
  letter: string;
  hue: number;
  name: string;
  n: number;
  estimate: number | null;
  low: number | null;
  high: number | null;
  dots: { code: string; value: number; aside: boolean }[];
}
const props = defineProps<{ rows: DotRow[]; scale: Scale; title: string; axis: string; change: boolean }>();

const box = ref<HTMLElement>();
const width = useWidth(box);
const id = useId();
const SIZE = 11;
const share = computed(() => isShare(props.scale) && !props.change);
const domain = computed<[number, number]>(() => {
  if (share.value) return [0, 1];
  if (props.scale.kind === "grade" && !props.change)
    return [sure(props.scale.levels[0]).value, sure(props.scale.levels.at(-1)).value];
  const all = props.rows
    .flatMap((row) => [row.low, row.high, row.estimate, ...row.dots.map((dot) => dot.value)])
    .filter((v): v is number => v !== null);
  const [low, high] = [Math.min(...all), Math.max(...all)];
  return low === high ? [low - 1, high + 1] : [low, high];
});
const side = computed(() => (width.value < 560 ? 0 : 190));
const many = computed(() => (width.value < 560 ? 4 : 6));
const x = computed(() => {
  const made = scaleLinear()
    .domain(domain.value)
    .range([side.value + 14, width.value - 24]);
  return share.value || (props.scale.kind === "grade" && !props.change) ? made : made.nice(many.value);
});
const ticks = computed(() => {
  const found = x.value.ticks(many.value);
  const whole = props.scale.kind === "count" || props.scale.kind === "grade";
  return whole ? found.filter(Number.isInteger) : found;
});
/** Where more dots than so many would stand on each other, columns count them instead. */
const MOST_LEVELS = 14;
const all = computed(() =>
  props.rows.map((row) => (share.value ? [] : stacked(row.dots, (dot) => x.value(dot.value), SIZE))),
);
const heaped = computed(() => all.value.some((dots) => dots.some((dot) => dot.level >= MOST_LEVELS)));
const columns = computed(() =>
  props.rows.map((row) =>
    heaped.value
      ? columned(
          row.dots,
          (dot) => x.value(dot.value),
          SIZE,
          (dot) => dot.aside,
        )
      : [],
  ),
);
const tallest = computed(() => Math.max(1, ...columns.value.flat().map((one) => one.many + one.aside)));
const up = (many: number) => (MOST_LEVELS * SIZE * many) / tallest.value;
const drawn = computed(() => {
  let top = 0;
  return props.rows.map((row, i) => {
    const dots = heaped.value ? [] : sure(all.value[i]);
    const heap = sure(columns.value[i]);
    const levels = heap.length
      ? Math.ceil(up(Math.max(...heap.map((one) => one.many + one.aside))) / SIZE)
      : dots.length
        ? Math.max(...dots.map((dot) => dot.level + 1))
        : 0;
    const height = (side.value ? 44 : 74) + Math.max(1, levels) * SIZE;
    const at = { row, dots, heap, top, base: top + height - 14, height, tall: levels ? levels * SIZE : 6 };
    top += height;
    return at;
  });
});
const height = computed(() => drawn.value.reduce((sum, row) => sum + row.height, 0) + 46);
const label = (value: number) =>
  share.value ? honest(100 * value, 3) : tickWord(value, props.scale, props.change);
const described = computed(() =>
  props.rows
    .map(
      (row) =>
        `${row.letter} ${row.name}: ${row.estimate === null ? "no reading" : amount(row.estimate, props.scale)}${row.low === null ? "" : `, between ${amount(row.low, props.scale)} and ${amount(sure(row.high), props.scale)}`}, ${row.n} samples.`,
    )
    .join(" "),
);
const passed = (row: DotRow) => row.dots.filter((dot) => dot.value === 1 && !dot.aside).length;
</script>

<template>
  <figure ref="box" class="min-w-0">
    <svg :width="width" :height="height" role="img" :aria-labelledby="`${id}-t ${id}-d`">
      <title :id="`${id}-t`">{{ title }}</title>
      <desc :id="`${id}-d`">{{ described }}</desc>
      <g v-for="tick in ticks" :key="tick">
        <line :x1="x(tick)" :x2="x(tick)" y1="6" :y2="height - 42" class="grid-line" />
        <text :x="x(tick)" :y="height - 24" text-anchor="middle" class="tick">{{ label(tick) }}</text>
      </g>
      <text :x="width - 24" :y="height - 4" text-anchor="end" class="tick">{{ axis }}</text>
      <g v-for="one in drawn" :key="one.row.letter" :data-hue="one.row.hue">
        <line x1="0" :x2="width" :y1="one.top + 1" :y2="one.top + 1" class="row-line" />
        <g :transform="`translate(0 ${side ? one.base - 26 : one.top + 8})`">
          <rect width="28" height="26" class="chip" />
          <text
            x="14"
            y="19"
            text-anchor="middle"
            class="chip-letter"
            :textLength="one.row.letter.length > 1 ? 20 : undefined"
            lengthAdjust="spacingAndGlyphs"
          >
            {{ one.row.letter }}
          </text>
          <foreignObject
            x="38"
            :y="side ? -12 : 0"
            :width="side ? side - 44 : width - 50"
            :height="side ? 50 : 28"
          >
            <p class="row-name" :class="{ middle: side }">{{ one.row.name }}</p>
          </foreignObject>
        </g>
        <rect
          v-if="one.row.low !== null"
          :x="x(one.row.low)"
          :y="one.base - 17 - one.tall"
          :width="Math.max(2, x(one.row.high!) - x(one.row.low))"
          height="12"
          class="interval"
        />
        <line
          v-if="one.row.estimate !== null"
          :x1="x(one.row.estimate)"
          :x2="x(one.row.estimate)"
          :y1="one.base - 21 - one.tall"
          :y2="one.base - one.tall - 1"
          class="mean"
        />
        <circle
          v-for="dot in one.dots"
          :key="dot.of.code"
          :cx="dot.x"
          :cy="one.base - 5 - dot.level * SIZE"
          :r="SIZE / 2 - 0.8"
          :class="dot.of.aside ? 'dot-aside' : 'dot'"
        >
          <title>
            {{ dot.of.code }}: {{ amount(dot.of.value, scale) }}{{ dot.of.aside ? ", set aside" : "" }}
          </title>
        </circle>
        <template v-for="column in one.heap" :key="column.x">
          <rect
            :x="column.x - SIZE / 2 + 0.5"
            :y="one.base - up(column.many)"
            :width="SIZE - 1"
            :height="up(column.many)"
            class="dot"
          />
          <rect
            v-if="column.aside"
            :x="column.x - SIZE / 2 + 1.4"
            :y="one.base - up(column.many + column.aside)"
            :width="SIZE - 2.8"
            :height="up(column.aside)"
            class="dot-aside"
          />
        </template>
        <text v-if="share" :x="x(one.row.estimate ?? 0)" :y="one.base + 2" text-anchor="middle" class="tick">
          {{ passed(one.row) }} of {{ one.row.n }}
        </text>
      </g>
      <line :x1="side + 14" :x2="width - 24" :y1="height - 42" :y2="height - 42" class="axis" />
    </svg>
    <figcaption v-if="heaped" class="text-[0.9rem] text-soft">
      Columns count samples, the tallest {{ tallest }}.
    </figcaption>
    <details class="mt-1">
      <summary class="quiet inline-flex items-center">As a table</summary>
      <WideTable class="mt-1"
        ><table class="figures max-w-2xl">
          <thead>
            <tr>
              <th scope="col">Treatment</th>
              <th scope="col" class="number">Samples</th>
              <th scope="col" class="number">Estimate</th>
              <th scope="col" class="number">95 times in 100 between</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in rows" :key="row.letter">
              <td>{{ row.letter }} {{ row.name }}</td>
              <td class="number">{{ row.n }}</td>
              <td class="number">{{ row.estimate === null ? "–" : amount(row.estimate, scale) }}</td>
              <td class="number">
                {{
                  row.low === null
                    ? "–"
                    : `${change ? honest(row.low) : meanOf(row.low, scale)} and ${change ? honest(row.high!) : meanOf(row.high!, scale)} ${unitOf(scale)}`
                }}
              </td>
            </tr>
          </tbody>
        </table></WideTable
      >
    </details>
  </figure>
</template>

<style scoped>
.grid-line {
  stroke: var(--line);
  stroke-width: 1;
  stroke-dasharray: 1 5;
}
.row-line {
  stroke: var(--line);
}
.axis {
  stroke: var(--ink);
  stroke-width: 2;
}
.tick {
  fill: var(--soft);
  font-size: 14px;
}
.chip,
.dot {
  fill: var(--hue);
}
.chip-letter {
  fill: var(--sheet);
  font-weight: 700;
  font-size: 16px;
}
.row-name {
  font-weight: 700;
  line-height: 1.15;
  font-size: 15.5px;
}
.middle {
  display: flex;
  align-items: center;
  height: 50px;
}
.interval {
  fill: var(--hue);
  opacity: 0.32;
}
.mean {
  stroke: var(--hue);
  stroke-width: 3.5;
}
.dot-aside {
  fill: none;
  stroke: var(--hue);
  stroke-width: 1.8;
}
</style>
