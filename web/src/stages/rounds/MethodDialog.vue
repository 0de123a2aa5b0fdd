<script setup lang="ts">
/** A way of measuring turned out not to hold: its outcome is withdrawn, or split at the moment the way
 * changed.
 */
import { ref } from "vue";

import ChoiceRow from "@/parts/ChoiceRow.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import { fieldOf, momentIn } from "@/parts/localMoment";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const emit = defineEmits<{ close: [] }>();
const outcome = ref(props.course.outcomes[0]?.key ?? "");
const way = ref<"withdraw" | "split">("withdraw");
const since = ref(fieldOf(new Date()));
const reason = ref("");
const { busy, says, other, through, asks, insist, said } = useAct(["reason", "since", "outcome"]);
const go = () =>
  through(async () => {
    const body = {
      outcome: outcome.value,
      reason: reason.value,
      since: way.value === "split" ? momentIn(since.value) : null,
    };
    await answer(
      api.POST("/api/trials/{trial_id}/methods", {
        ...said(),
        params: { path: { trial_id: props.id } },
        body,
      }),
    );
    await trialChanged(props.id);
    emit("close");
  });
</script>

<template>
  <DialogSheet :open="true" title="A way of measuring failed" wide @close="emit('close')">
    <p class="mt-2">
      A kit that proved unreliable, an instrument that was replaced. Nothing is erased: all readings stay in
      the log, and the verdict says what was lost.
    </p>
    <form class="mt-4 grid gap-4" @submit.prevent="go">
      <div>
        <label class="block"
          ><span class="mb-1 block font-bold">Which outcome</span
          ><select v-model="outcome" class="field">
            <option v-for="one in course.outcomes" :key="one.key" :value="one.key">{{ one.name }}</option>
          </select></label
        ><ProblemText :says="says('outcome')" />
      </div>
      <ChoiceRow
        v-model="way"
        legend="What is done with it"
        :choices="[
          {
            value: 'withdraw',
            name: 'Withdraw it',
            says: 'It is not scored any more, and nothing is claimed from it.',
          },
          {
            value: 'split',
            name: 'Split it',
            says: 'Measured in another way from a moment on; before and after are never put together.',
          },
        ]"
      />
      <div v-if="way === 'split'">
        <label class="block"
          ><span class="mb-1 block font-bold">In the new way from (time of this device)</span
          ><input v-model="since" type="datetime-local" class="field" /></label
        ><ProblemText :says="says('since')" />
      </div>
      <LabelledField
        v-model="reason"
        label="What was wrong with it?"
        placeholder="read 0.4 on plain water"
        autocomplete="off"
        :says="says('reason')"
      />
      <ProblemText :says="other" />
      <SaidAnyway :asks="asks" :busy="busy" @insist="insist" />
      <div class="flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy">
          {{ way === "split" ? "Split it" : "Withdraw it" }}
        </button>
        <button type="button" class="press" @click="emit('close')">Leave it</button>
      </div>
    </form>
  </DialogSheet>
</template>
