<script setup lang="ts">
/** The day and hour at which what is typed from paper was seen. */
import { computed, useId } from "vue";

import type { RoundAtWork } from "./useRound";
import ProblemText from "@/parts/ProblemText.vue";
import { fieldOf } from "@/parts/localMoment";
import { rightNow } from "@/shell/offline/clock";

const props = defineProps<{ work: RoundAtWork }>();
const field = props.work.seenOn;
const says = useId();
const latest = fieldOf(rightNow());
const round = props.work.round;
const whose = computed(() => round.value?.looked_by ?? "");
</script>

<template>
  <div class="mt-2 border-l-4 border-ink pl-3">
    <p v-if="round?.notebook">
      From the notebook{{ whose ? ` of ${whose}` : "" }}, from before the seal: marked as written down later,
      with both days.
    </p>
    <label class="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1"
      ><span>It was looked at on</span>
      <input
        v-model="field"
        type="datetime-local"
        class="field max-w-64"
        :max="latest"
        :aria-invalid="work.seenSays.value ? 'true' : undefined"
        :aria-describedby="says"
      /><span v-if="!field" class="text-soft">no day given: as seen when it is typed</span></label
    >
    <ProblemText :id="says" :says="work.seenSays.value" />
  </div>
</template>
