<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Amendments of a sealed plan: those made, and one being made with its reason. */
import { onUnmounted, ref, useId, watch } from "vue";

import type { PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import { fieldOf, momentIn } from "@/parts/localMoment";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { rightNow } from "@/shell/offline/clock";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ work: PlanAtWork; zone: string }>();
const id = useId();
const { amending, plan } = props.work;
const when = useId();
const reason = ref("");
const decided = ref("");
const shown = ref<Schemas["ChangesOut"]>();
const { busy, other, says, through } = useAct(["decided"]);
const path = { params: { path: { trial_id: props.work.trial } } };
let timer = 0;
async function look(): Promise<void> {
  shown.value = await answer(
    api.POST("/api/trials/{trial_id}/changes", { ...path, body: { plan: sure(plan.value) } }),
  );
}
watch(
  plan,
  () => {
    if (!amending.value) return;
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void look().catch(() => undefined), 300);
  },
  { deep: true },
);
onUnmounted(() => window.clearTimeout(timer));
async function leave(): Promise<void> {
  [reason.value, decided.value, shown.value] = ["", "", undefined];
  await props.work.load();
}
const amend = () =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/amend", {
        ...path,
        body: {
          plan: sure(plan.value),
          reason: reason.value,
          decided: decided.value ? momentIn(decided.value) : null,
        },
      }),
    );
    await leave();
    await trialChanged(props.work.trial);
  });
</script>

<template>
  <div class="mt-4">
    <ol v-if="work.saved.value?.amendments.length" class="grid gap-2">
      <li v-for="one in work.saved.value.amendments" :key="one.number" class="bg-panel-raised px-4 py-2.5">
        <b>Amendment {{ one.number }}</b
        >, {{ moment(one.decided ?? one.at, zone)
        }}<template v-if="one.decided">, written down {{ moment(one.at, zone) }}</template
        >, {{ one.by }}: {{ one.reason }}
        <span class="block text-[0.92rem] text-panel-soft">{{ one.changes.join(" ") }}</span>
      </li>
    </ol>
    <template v-if="amending">
      <h3 class="mt-3 font-bold">What this amendment changes</h3>
      <ul class="mt-1 grid gap-1" aria-label="What this amendment changes">
        <li v-for="one in shown?.changes ?? []" :key="one">{{ one }}</li>
        <li v-for="one in shown?.problems ?? []" :key="one.at + one.says" role="alert" class="font-bold">
          {{ one.says }}
        </li>
        <li v-if="!shown?.changes.length" class="text-panel-soft">
          Nothing yet: change a look, a window, a supporting outcome or what is held equal, or add samples
          under Treatments.
        </li>
      </ul>
      <label :for="id" class="mt-3 block">Why?</label>
      <input
        :id="id"
        v-model="reason"
        class="field mt-1"
        placeholder="what made it necessary"
        autocomplete="off"
      />
      <label :for="when" class="mt-3 block">Decided at (time of this device; empty: now)</label>
      <input
        :id="when"
        v-model="decided"
        type="datetime-local"
        class="field mt-1"
        :max="fieldOf(rightNow())"
        :aria-invalid="says('decided') ? 'true' : undefined"
        :aria-describedby="`${when}-says`"
      />
      <ProblemText :id="`${when}-says`" :says="says('decided')" />
      <p v-if="other" role="alert" class="mt-2 font-bold">{{ other }}</p>
      <div class="mt-3 flex gap-2">
        <button
          type="button"
          class="press press-main grow"
          :disabled="busy || !shown?.changes.length"
          @click="amend"
        >
          Amend the plan
        </button>
        <button type="button" class="press grow" @click="leave">Leave it</button>
      </div>
    </template>
    <button
      v-else-if="work.saved.value?.may_amend"
      type="button"
      class="press mt-3 w-full"
      @click="work.beginAmending"
    >
      Amend the plan
    </button>
  </div>
</template>
