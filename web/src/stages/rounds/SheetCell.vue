<script setup lang="ts">
import { sure } from "@/parts/sure";
/** One cell of the sheet: what is typed, what is kept, whether the server has it. */
import { ref, useId, watch } from "vue";

import { givenIn } from "./given";
import { shownResponses } from "./twice";
import type { Cell, Given, How, Outcome } from "./useRound";
import ReadDevice from "@/parts/ReadDevice.vue";
import { reading } from "@/parts/amounts";
import { typed } from "@/parts/typed";
import { isListed } from "@/shell/shortcuts";

const props = defineProps<{
  label: string;
  outcome: Outcome;
  cell: Cell | undefined;
  at: string;
}>();
const emit = defineEmits<{
  give: [given: Given, how?: How];
  step: [by: "next" | "before" | "down" | "up"];
  cannot: [];
  again: [];
  undo: [];
}>();

const input = ref<HTMLInputElement>();
const says = ref("");
const told = useId();
const shown = () => {
  if (!props.cell) return "";
  if (props.cell.kind === "cannot") return "cannot";
  const scale = props.outcome.scale;
  if (scale.kind === "note") return props.cell.words;
  if (scale.kind === "curve") return shownResponses(props.cell.responses);
  return scale.kind === "grade" || scale.kind === "passfail"
    ? reading(sure(props.cell.value), scale)
    : String(props.cell.value);
};
const text = ref(shown());
/** What was typed and given already; the cell shows it a moment later. */
let given: string | null = null;
watch(
  () => [props.cell?.id, props.cell?.value, props.cell?.kind],
  () => {
    given = null;
    text.value = shown();
  },
);
function give(value: Given, how?: How): void {
  says.value = "";
  given = text.value;
  emit("give", value, how);
}

/** Where every score is one key, giving it goes on at once. */
const oneKey = () => {
  const scale = props.outcome.scale;
  return (
    scale.kind === "passfail" ||
    scale.kind === "event" ||
    (scale.kind === "grade" && scale.levels.every((level) => level.label.trim().length === 1))
  );
};
function keep(): boolean {
  if (text.value === given || text.value === shown()) return true;
  const { given: meant, says: wrong } = givenIn(text.value, props.outcome.scale);
  if (meant === undefined) {
    says.value = wrong;
    return false;
  }
  give(meant);
  return true;
}
function read(value: number, device: string): void {
  text.value = String(value);
  const { given: meant, says: wrong } = givenIn(text.value, props.outcome.scale);
  if (meant === undefined) says.value = wrong;
  else give(meant, { source: "device", device });
}
/** Whether there is a value to be read again; words are added to instead. */
const mayAgain = () => props.cell?.kind === "value" && props.outcome.scale.kind !== "note";
function press(event: KeyboardEvent): void {
  const moves: Record<string, "next" | "before" | "down" | "up"> = { ArrowDown: "down", ArrowUp: "up" };
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
    event.preventDefault();
    emit("undo");
  } else if (event.ctrlKey || event.metaKey || event.altKey) {
    return;
  } else if (event.key === "Enter") {
    event.preventDefault();
    if (text.value === shown()) emit("step", "next");
    else keep();
  } else if (event.key.toLowerCase() === "x" && props.outcome.scale.kind !== "note") {
    event.preventDefault();
    emit("cannot");
  } else if (event.key.toLowerCase() === "r" && mayAgain()) {
    event.preventDefault();
    emit("again");
  } else if (event.key === "?" && props.outcome.scale.kind !== "note") {
    event.preventDefault();
    isListed.value = true;
  } else if (event.key === "Escape") {
    text.value = shown();
    says.value = "";
  } else if (moves[event.key]) {
    event.preventDefault();
    if (keep()) emit("step", sure(moves[event.key]));
  } else if (event.key === "ArrowLeft" && input.value?.selectionStart === 0) {
    event.preventDefault();
    emit("step", "before");
  } else if (event.key === "ArrowRight" && input.value?.selectionEnd === text.value.length) {
    event.preventDefault();
    emit("step", "next");
  } else if (
    oneKey() &&
    event.key.length === 1 &&
    typeof typed(event.key, props.outcome.scale) === "number"
  ) {
    event.preventDefault();
    text.value = event.key;
    give(typed(event.key, props.outcome.scale));
  }
}
</script>

<template>
  <div>
    <div class="flex items-center gap-2">
      <input
        ref="input"
        v-model="text"
        class="field"
        :class="outcome.scale.kind === 'note' ? 'min-w-60' : 'max-w-40'"
        :data-at="at"
        :aria-label="label"
        autocomplete="off"
        :inputmode="outcome.scale.kind === 'note' ? 'text' : 'decimal'"
        :aria-invalid="says ? 'true' : undefined"
        :aria-describedby="says ? told : undefined"
        @keydown="press"
        @blur="keep"
        @focus="input?.select()"
      />
      <svg
        viewBox="0 0 12 12"
        class="h-3 w-3 flex-none"
        role="img"
        :aria-label="!cell ? 'not scored' : cell.stored ? 'stored' : 'on this device only'"
      >
        <rect
          v-if="cell"
          x="1.5"
          y="1.5"
          width="9"
          height="9"
          :fill="cell.stored ? 'currentColor' : 'none'"
          stroke="currentColor"
          stroke-width="2"
        />
      </svg>
      <ReadDevice
        v-if="outcome.scale.kind === 'measurement'"
        small
        :unit="outcome.scale.unit"
        :what="label"
        @read="(one) => read(one.value, one.device)"
      />
    </div>
    <p v-if="cell?.again.length" class="text-[0.9rem] text-soft">read again: {{ cell.again.join(", ") }}</p>
    <p v-if="says" :id="told" role="alert" class="mt-1 text-[0.9rem] font-bold">{{ says }}</p>
  </div>
</template>
