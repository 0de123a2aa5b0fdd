<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A look that is skipped, or one that nobody had planned: both take a reason, and both are told with the
 * verdict.
 */
import { ref } from "vue";
import { useRouter } from "vue-router";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{
  id: string;
  what: "skip" | "now";
  stop: Pick<Schemas["CheckpointOut"], "key" | "name" | "lost"> | null;
  zone?: string;
}>();
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const reason = ref("");
const { busy, says, other, through, asks, insist, said } = useAct(["reason"]);
const path = { params: { path: { trial_id: props.id } } };
const go = () =>
  through(async () => {
    if (props.what === "skip") {
      await answer(
        api.POST("/api/trials/{trial_id}/skips", {
          ...path,
          ...said(),
          body: { checkpoint: sure(props.stop).key, reason: reason.value },
        }),
      );
      await trialChanged(props.id);
    } else {
      const { checkpoint } = await answer(
        api.POST("/api/trials/{trial_id}/unplanned-looks", {
          ...path,
          ...said(),
          body: { reason: reason.value },
        }),
      );
      await trialChanged(props.id);
      await router.push({ name: "round", params: { id: props.id, checkpoint } });
    }
    emit("close");
  });
</script>

<template>
  <DialogSheet
    :open="true"
    :title="what === 'skip' ? `Skip ${stop?.name}?` : 'Look now, though nobody planned it?'"
    @close="emit('close')"
  >
    <p class="mt-2">
      {{
        what === "skip"
          ? "The curve over time then has a gap there, and an outcome that is judged at this look has no verdict. What is scored on it all the same still counts."
          : "The look is marked as unplanned. It is shown over time, and never takes the place of the look by which an outcome is judged."
      }}
    </p>
    <p v-if="what === 'skip' && stop?.lost" class="mt-2">
      Or put it off: it can still be scored until {{ moment(stop.lost, zone ?? "UTC") }}. What is taken late
      is marked so, and compared at its true time.
    </p>
    <form class="mt-4 grid gap-4" @submit.prevent="go">
      <LabelledField v-model="reason" label="Why?" autocomplete="off" :says="says('reason')" />
      <ProblemText :says="other" />
      <SaidAnyway :asks="asks" :busy="busy" @insist="insist" />
      <div class="flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy">
          {{ what === "skip" ? "Skip it" : "Begin the look" }}
        </button>
        <button type="button" class="press" @click="emit('close')">Leave it</button>
      </div>
    </form>
  </DialogSheet>
</template>
