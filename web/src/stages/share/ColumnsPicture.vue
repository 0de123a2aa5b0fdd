<script setup lang="ts">
/** The trial that a table tells of, drawn: columns lie where they belong; dragged, or tapped and put. */
import { computed, ref } from "vue";

import type { Schemas } from "@/shell/api/client";

type Meant = Schemas["ImportedTableOut"]["meaning"]["columns"][number];
type Part = Meant["part"];
const props = defineProps<{ columns: Meant[]; rows: string[][] }>();
const emit = defineEmits<{ put: [column: number, part: Part] }>();
const picked = defineModel<number | null>("picked", { required: true });
const PLACES: { part: Part; name: string; area: string; empty: string }[] = [
  { part: "block", name: "Where it stands", area: "block", empty: "no places told" },
  { part: "treatment", name: "What it got", area: "treatment", empty: "still missing" },
  { part: "sample", name: "The sample", area: "sample", empty: "told apart by their order" },
  { part: "value", name: "What was measured", area: "value", empty: "still missing" },
  { part: "started", name: "When it began", area: "started", empty: "said above" },
  { part: "checkpoint", name: "When it was looked at", area: "checkpoint", empty: "in the columns' names" },
  { part: "stage", name: "Before or after what", area: "stage", empty: "looked at once" },
  { part: "scorer", name: "Who looked", area: "scorer", empty: "you" },
  { part: "outcome", name: "Names of what was measured", area: "outcome", empty: "in the columns' names" },
  { part: "aside", name: "Why it was set aside", area: "aside", empty: "nothing set aside" },
  { part: "note", name: "Remarks", area: "note", empty: "none" },
  { part: "nothing", name: "Not used", area: "nothing", empty: "nothing" },
];
const dragged = ref<number | null>(null);
const over = ref<Part | null>(null);
const own = computed(
  () =>
    new Map(
      PLACES.map(({ part }) => [
        part,
        props.columns.map((column, i) => ({ column, i })).filter((one) => one.column.part === part),
      ]),
    ),
);
/** What stands in the first rows of a column, a few words of it. */
function like(i: number): string {
  const seen = [...new Set(props.rows.map((row) => row[i] ?? "").filter(Boolean))];
  return seen.slice(0, 3).join(", ").slice(0, 34) + (seen.length > 3 ? " …" : "");
}
function put(part: Part, i: number | null): void {
  over.value = dragged.value = null;
  if (i === null || props.columns[i]?.part === part) return;
  picked.value = part === "value" ? i : null;
  emit("put", i, part);
}
function drag(event: DragEvent, i: number): void {
  dragged.value = i;
  event.dataTransfer?.setData("text/plain", props.columns[i]?.name ?? "");
}
</script>

<template>
  <div class="picture">
    <section
      v-for="place in PLACES"
      :key="place.part"
      class="place"
      :class="[place.area, { over: over === place.part, waits: picked !== null }]"
      :style="{ gridArea: place.area }"
      :aria-label="place.name"
      @dragover.prevent="over = place.part"
      @dragleave="over = null"
      @drop.prevent="put(place.part, dragged)"
    >
      <svg v-if="place.part === 'sample'" class="hole" viewBox="0 0 12 12" aria-hidden="true">
        <circle cx="6" cy="6" r="4.4" />
      </svg>
      <h3>{{ place.name }}</h3>
      <div class="row">
        <button
          v-for="{ column, i } in own.get(place.part)"
          :key="column.name"
          type="button"
          class="chip"
          draggable="true"
          :aria-pressed="picked === i"
          :class="{ picked: picked === i }"
          @click="picked = picked === i ? null : i"
          @dragstart="drag($event, i)"
          @dragend="dragged = over = null"
        >
          <b>{{ column.name }}</b>
          <span>{{ like(i) }}</span>
        </button>
        <p v-if="!own.get(place.part)?.length" class="text-soft">{{ place.empty }}</p>
        <button
          v-if="picked !== null && columns[picked]?.part !== place.part"
          type="button"
          class="here"
          :aria-label="`Put ${columns[picked]?.name} here: ${place.name}`"
          @click="put(place.part, picked)"
        >
          Put it here
        </button>
      </div>
    </section>
  </div>
</template>

<style scoped>
.picture {
  display: grid;
  gap: 10px;
  grid-template-areas:
    "block block value"
    "sample treatment value"
    "started checkpoint scorer"
    "outcome stage scorer"
    "aside note note"
    "nothing nothing nothing";
  grid-template-columns: 1fr 1fr minmax(14rem, 1fr);
}
.place {
  min-width: 0;
  padding: 8px 12px 10px;
  border: 2px solid var(--line);
}
.place h3 {
  margin-bottom: 6px;
  font-size: 0.95rem;
}
.place.over {
  border-color: var(--ink);
  background: var(--ground);
}
/* Ground in which things stand, a tag tied to each, a strip of readings, a line of looks, what was swept off. */
.block {
  border-style: dashed;
  border-color: var(--ink);
}
.sample {
  position: relative;
  padding-left: 34px;
  border: 0;
  background: var(--ground);
  clip-path: polygon(16px 0, 100% 0, 100% 100%, 16px 100%, 0 calc(100% - 16px), 0 16px);
}
.hole {
  position: absolute;
  top: calc(50% - 7px);
  left: 10px;
  width: 14px;
}
.hole circle {
  fill: var(--sheet);
  stroke: currentColor;
  stroke-width: 1.8;
}
.treatment {
  border-color: var(--ink);
  border-width: 4px;
}
.value {
  border-color: var(--ink);
  border-left-width: 10px;
}
.started,
.checkpoint {
  border-width: 0 0 4px;
  border-color: var(--ink);
}
.nothing {
  border-width: 2px 0 0;
}
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: stretch;
  gap: 8px;
}
.row > p {
  align-self: center;
}
.chip,
.here {
  min-height: 44px;
  padding: 4px 10px;
  border: 2px solid var(--ink);
  background: var(--sheet);
  text-align: left;
}
.chip {
  display: inline-block;
  max-width: 100%;
  cursor: grab;
  overflow-wrap: anywhere;
}
.chip span {
  display: block;
  font-size: 0.85rem;
  color: var(--soft);
}
.chip.picked {
  background: var(--ink);
  color: var(--sheet);
}
.chip.picked span {
  color: inherit;
}
.here {
  border-style: dashed;
  font-weight: 700;
}
.nothing .chip {
  border-color: var(--line);
}
@media (max-width: 640px) {
  .picture {
    grid-template-areas: "block" "treatment" "sample" "value" "started" "checkpoint" "stage" "scorer" "outcome" "aside" "note" "nothing";
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
