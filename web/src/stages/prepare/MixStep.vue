<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** A step of the mix sheet: ticked once it is done, after what is usual with it has been read. */
import { ref } from "vue";

import CautionList from "@/parts/CautionList.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TickSquare from "@/parts/TickSquare.vue";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";

const props = defineProps<{ id: string; step: Schemas["StepOut"]; mayTick: boolean; zone: string }>();
const reading = ref(false);
const { busy, other, through } = useAct([]);
const tick = () =>
  through(async () => {
    const body = { step: props.step.key, acknowledged: props.step.cautions.map((one) => one.key) };
    queryClient.setQueryData(
      keys.mix(props.id),
      await answer(
        api.POST("/api/trials/{trial_id}/mix/ticks", { params: { path: { trial_id: props.id } }, body }),
      ),
    );
    reading.value = false;
  });
function begin(): void {
  if (props.step.cautions.length) reading.value = true;
  else void tick();
}
</script>

<template>
  <li class="rule py-1 first:border-0">
    <div class="flex items-center gap-3">
      <TickSquare
        :done="!!step.ticked_at"
        :may="mayTick"
        :busy="busy"
        :label="`Done: ${step.says}`"
        @tick="begin"
      />
      <p class="grow" :class="{ 'text-soft': step.ticked_at }">
        {{ step.says }}
        <span v-if="step.cautions.length && !step.ticked_at" class="font-bold text-hazard"
          ><svg viewBox="0 0 16 16" class="mb-0.5 inline h-4 w-4" aria-hidden="true">
            <path d="M8 1 15.5 15H.5z" fill="currentColor" />
            <path d="M8 6v4M8 12v1.4" stroke="var(--sheet)" stroke-width="1.8" />
          </svg>
          {{ step.cautions.map((one) => one.name).join(", ") }}</span
        >
        <span v-if="step.ticked_at" class="block text-[0.92rem]"
          >{{ step.ticked_by }}, {{ moment(step.ticked_at, zone) }}</span
        >
      </p>
    </div>
    <div v-if="reading" class="mb-2 ml-[60px]">
      <CautionList :cautions="step.cautions" :clashes="[]" />
      <p class="mt-1 text-soft">{{ step.cautions[0]!.defers }}</p>
      <div class="mt-2 flex flex-wrap gap-2">
        <button type="button" class="press press-main" :disabled="busy" @click="tick">
          I have read this, and it is done
        </button>
        <button type="button" class="quiet" @click="reading = false">Not done yet</button>
      </div>
    </div>
    <ProblemText :says="other" />
  </li>
</template>
