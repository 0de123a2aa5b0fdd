<script setup lang="ts">
/** A sample is scored while its own look is still to come, or over: asked once, and marked. */
import { computed } from "vue";

import type { RoundAtWork } from "./useRound";
import DialogSheet from "@/parts/DialogSheet.vue";
import { moment } from "@/parts/moments";
import { useCourse } from "@/shell/query";

const props = defineProps<{ work: RoundAtWork; id: string }>();
const asked = computed(() => props.work.asking.value);
const { data: course } = useCourse(() => props.id);
const when = (at: string) => moment(at, course.value?.zone ?? "UTC");
</script>

<template>
  <DialogSheet v-if="asked" :open="true" :title="`Score ${asked.sample.code} now?`" @close="asked.say(false)">
    <p class="mt-2">
      <template v-if="asked.sample.opens"
        >It started later than others: its own look comes from {{ when(asked.sample.opens) }} on.</template
      >
      <template v-else-if="asked.sample.closed"
        >It started before others: its own look was over on {{ when(asked.sample.closed) }}.</template
      >
      What you give now is marked as beside its own look, and the verdict tells it.
    </p>
    <div class="mt-5 flex flex-wrap gap-3">
      <button class="press" @click="asked.say(true)">Score it all the same</button>
      <button class="press press-main" @click="asked.say(false)">Leave it</button>
    </div>
  </DialogSheet>
</template>
