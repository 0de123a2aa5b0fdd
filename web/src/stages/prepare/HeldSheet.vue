<script setup lang="ts">
/** The held-equal sheet: ticked while the samples are prepared; what differed after all is recorded. */
import { ref } from "vue";

import DifferenceForm from "./DifferenceForm.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TickSquare from "@/parts/TickSquare.vue";
import { moment } from "@/parts/moments";
import { answer, api } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged, useHeld } from "@/shell/query";

const props = defineProps<{ id: string; zone: string; mayTick: boolean }>();
const { data: sheet } = useHeld(() => props.id, true);
const { busy, other, through } = useAct([]);
const telling = ref<string | null>(null);
const tick = (entry: string) =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/held/ticks", {
        params: { path: { trial_id: props.id } },
        body: { entry },
      }),
    );
    await trialChanged(props.id, ["held"]);
  });
async function told(): Promise<void> {
  telling.value = null;
  await trialChanged(props.id, ["held", "log"]);
}
</script>

<template>
  <section v-if="sheet?.entries.length" class="mt-7 border-t-2 border-ink pt-3">
    <h2>Held equal for all</h2>
    <ul class="mt-1 max-w-4xl">
      <li v-for="one in sheet.entries" :key="one.key" class="rule py-1">
        <div class="flex flex-wrap items-center gap-x-4">
          <TickSquare
            :done="!!one.ticked_at"
            :may="mayTick"
            :busy="busy"
            :label="`${one.what} is as planned`"
            @tick="tick(one.key)"
          />
          <p class="grow">
            <b>{{ one.what }}</b>: {{ one.setting || "as usual"
            }}<span v-if="one.ticked_at" class="text-soft"
              >, {{ one.ticked_by }}, {{ moment(one.ticked_at, zone) }}</span
            >
          </p>
          <button
            v-if="telling !== one.key"
            type="button"
            class="quiet no-print"
            :aria-label="`${one.what} differed`"
            @click="telling = one.key"
          >
            It differed
          </button>
        </div>
        <p v-for="difference in one.differences" :key="difference" class="pb-1 pl-16">
          Differed: {{ difference }}
        </p>
        <DifferenceForm
          v-if="telling === one.key"
          :id="id"
          :about="one.key"
          :what="one.what"
          @told="told"
          @close="telling = null"
        />
      </li>
    </ul>
    <ProblemText :says="other" />
  </section>
</template>
