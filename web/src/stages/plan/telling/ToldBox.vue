<script setup lang="ts">
/** The box in which somebody writes what they would tell a friend; what is understood is marked at its words.
 */
import { computed, ref, useId } from "vue";

import { lettersOf, placeIn, runsOf, type WordMark } from "./told";

const text = defineModel<string>({ required: true });
const props = defineProps<{ marks: WordMark[]; read: string }>();
const emit = defineEmits<{ chosen: [piece: { begin: number; end: number; text: string } | null] }>();
const id = useId();
const area = ref<HTMLTextAreaElement>();
const scrolled = ref(0);
/** Marks are of the text that was read; of what is typed since then, those up to the change hold. */
const runs = computed(() => {
  let same = 0;
  while (same < text.value.length && text.value[same] === props.read[same]) same += 1;
  const sure = placeIn(text.value, same);
  const whole = text.value === props.read;
  return runsOf(text.value, whole ? props.marks : props.marks.filter((one) => one.end < sure));
});
/** The words that were told of last: a browser tells of the same ones again and again. */
let last = "";
function choose(): void {
  const box = area.value;
  if (!box) return;
  const piece = box.value.slice(box.selectionStart, box.selectionEnd);
  const lead = piece.length - piece.trimStart().length;
  const begin = placeIn(box.value, box.selectionStart + lead);
  const bare = piece.trim();
  const key = bare && `${begin} ${bare}`;
  if (key === last) return;
  last = key;
  emit("chosen", bare ? { begin, end: begin + lettersOf(bare).length, text: bare } : null);
}
</script>

<template>
  <div>
    <label :for="id" class="mb-1 block text-[0.9rem] text-soft"
      >What would you tell a friend? Or paste a list, or rows of a sheet.</label
    >
    <div class="told">
      <div class="under field" aria-hidden="true">
        <div :style="{ transform: `translateY(${-scrolled}px)` }">
          <template v-for="(run, i) in runs" :key="i"
            ><span :class="run.mark ? `mark ${run.mark.part}` : undefined">{{ run.text }}</span></template
          >&#8203;
        </div>
      </div>
      <textarea
        :id="id"
        ref="area"
        v-model="text"
        class="over field"
        rows="4"
        maxlength="4000"
        spellcheck="true"
        placeholder="four twines, five lengths each, on the sunny fence and in the shaded arch; load in kg till they break after 20 weeks; jute is what we use now"
        @scroll="scrolled = area?.scrollTop ?? 0"
        @select="choose"
        @keyup="choose"
        @mouseup="choose"
        @touchend="choose"
      />
    </div>
  </div>
</template>

<style scoped>
.told {
  position: relative;
}
.under,
.over {
  font: inherit;
  line-height: 1.6;
  white-space: pre-wrap;
  overflow-wrap: break-word;
  tab-size: 4;
}
.under {
  position: absolute;
  inset: 0;
  overflow: hidden;
  color: transparent;
  pointer-events: none;
}
.over {
  position: relative;
  display: block;
  width: 100%;
  resize: vertical;
  background: transparent;
}
</style>
