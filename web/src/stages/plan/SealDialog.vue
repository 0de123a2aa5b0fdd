<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Sealing: what it fixes, and whether the lead stays blind. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import type { PlanAtWork } from "./usePlan";
import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ id: string; work: PlanAtWork }>();
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
/** Whoever has written down what stands where is not blind any more. */
const begun = computed(() => Boolean(props.work.plan.value?.begun));
const blind = ref<boolean | null>(props.work.plan.value?.begun ? false : null);
/** What would tell scorers: words that are blacked out, and starts that cannot be. */
const STARTS = "begun.samples";
const starts = computed(() => props.work.saved.value?.leaks.filter((one) => one.at === STARTS) ?? []);
const texts = computed(() => (props.work.saved.value?.leaks.length ?? 0) - starts.value.length);
const says = ref("");
const { busy, other, through } = useAct([]);
const seal = () =>
  through(async () => {
    if (blind.value === null) {
      says.value = "Choose one of the two.";
      return;
    }
    const params = { path: { trial_id: props.id } };
    try {
      await answer(
        api.POST("/api/trials/{trial_id}/seal", {
          params,
          body: { version: sure(props.work.saved.value).version, stay_blind: blind.value },
        }),
      );
    } catch (error) {
      // The answer may have been lost on its way: whether the plan is sealed is found out by asking.
      const found = await answer(api.GET("/api/trials/{trial_id}/course", { params })).catch(() => undefined);
      if (!found || found.state === "draft") throw error;
    }
    await trialChanged(props.id);
    await props.work.load();
    await router.push({ name: "board", params: { id: props.id } });
  });
</script>

<template>
  <DialogSheet :open="true" title="Seal the plan" @close="emit('close')">
    <p v-if="begun" class="mt-2">
      It is sealed as of now: what you told of the days before, the places and the looks that were taken is
      fixed as you told it; codes are drawn for what is still to be scored. The verdict says what was seen
      before the seal. You know what stands where, so what you score is recorded as open; others score blind
      from now on.
    </p>
    <p v-else class="mt-2">
      The layout and the codes are drawn, and a fingerprint is taken over plan and key. After that nothing in
      the plan changes, so that anyone can see that the result was not fitted to the question.
    </p>
    <ul v-if="work.saved.value?.leaks.length" class="mt-3 grid gap-1 border-l-4 border-ink pl-3">
      <li v-if="texts">
        {{ texts === 1 ? "One text names" : `${texts} texts name` }}
        a treatment; scorers see the name blacked out.
      </li>
      <li v-for="leak in starts" :key="leak.says">{{ leak.says }}</li>
    </ul>
    <fieldset v-if="!begun" class="mt-5 grid gap-2">
      <legend class="mb-2 font-bold">And you?</legend>
      <label class="flex gap-3 border-2 border-line p-3"
        ><input
          v-model="blind"
          type="radio"
          name="blind"
          :value="true"
          class="mt-0.5 h-6 w-6 flex-none accent-ink"
        /><span
          ><b>I stay blind.</b> Somebody else prepares the samples and sees the key for that; I do not, until
          I open it.</span
        ></label
      >
      <label class="flex gap-3 border-2 border-line p-3"
        ><input
          v-model="blind"
          type="radio"
          name="blind"
          :value="false"
          class="mt-0.5 h-6 w-6 flex-none accent-ink"
        /><span
          ><b>I prepare the samples.</b> I may look at the key for that; what I score afterwards is recorded
          as open.</span
        ></label
      >
    </fieldset>
    <ProblemText :says="says || other" />
    <div class="mt-5 flex flex-wrap gap-3">
      <button class="press press-main" :disabled="busy" @click="seal">Seal it</button>
      <button class="press" @click="emit('close')">Not yet</button>
    </div>
  </DialogSheet>
</template>
