<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Sealing: what it fixes, and whether the lead stays blind. */
import { ref } from "vue";
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
const blind = ref<boolean | null>(null);
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
    <p class="mt-2">
      The layout and the codes are drawn, and a fingerprint is taken over plan and key. After that nothing in
      the plan changes, so that anyone can see that the result was not fitted to the question.
    </p>
    <ul v-if="work.saved.value?.leaks.length" class="mt-3 border-l-4 border-ink pl-3">
      <li>
        {{
          work.saved.value.leaks.length === 1
            ? "One text names"
            : `${work.saved.value.leaks.length} texts name`
        }}
        a treatment; scorers see the name blacked out.
      </li>
    </ul>
    <fieldset class="mt-5 grid gap-2">
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
