<script setup lang="ts">
/** Something befell samples: what kind of thing, when, to which, and what is to be done with them. */
import { ref, useId } from "vue";

import ChoiceRow from "@/parts/ChoiceRow.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import { fieldOf, momentIn } from "@/parts/localMoment";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

type In = Schemas["AccidentIn"];
const props = defineProps<{ id: string; course: Schemas["CourseOut"]; code?: string }>();
const emit = defineEmits<{ close: [] }>();
const KINDS: { value: In["accident"]; name: string }[] = [
  { value: "dropped", name: "Dropped or broken" },
  { value: "eaten", name: "Eaten or gnawed" },
  { value: "disease", name: "Diseased" },
  { value: "weather", name: "Weather" },
  { value: "mixed_up", name: "Mixed up or mishandled" },
  { value: "treatment", name: "Treatment went wrong" },
  { value: "other", name: "Something else" },
];
const mayLeaveOut = props.course.may_lead || props.course.may_score;
const EFFECTS: { value: In["effect"]; name: string; says: string }[] = [
  { value: "mark", name: "Keep, and mark", says: "Scored on; the verdict tells it." },
  ...(mayLeaveOut
    ? [
        {
          value: "from" as const,
          name: "Leave out from then on",
          says: "What was read before still counts.",
        },
        {
          value: "exclude" as const,
          name: "Leave out altogether",
          says: "The verdict is told without and with.",
        },
      ]
    : []),
];
const kind = ref<In["accident"]>("dropped");
const effect = ref<In["effect"]>(props.code && mayLeaveOut ? "exclude" : "mark");
const codes = ref(props.code ?? "");
const since = ref(fieldOf(new Date()));
const reason = ref("");
const { busy, says, other, through, asks, insist, said } = useAct(["reason", "codes", "since"]);
const go = () =>
  through(async () => {
    const body: In = {
      accident: kind.value,
      effect: effect.value,
      codes: codes.value.split(/[\s,;]+/).filter(Boolean),
      reason: reason.value,
      since: momentIn(since.value),
    };
    await answer(
      api.POST("/api/trials/{trial_id}/accidents", {
        ...said(),
        params: { path: { trial_id: props.id } },
        body,
      }),
    );
    // First, since the board shows another dialog for the tag as soon as it has changed.
    emit("close");
    await trialChanged(props.id);
  });
const told = useId();
</script>

<template>
  <DialogSheet
    :open="true"
    :title="code ? `What happened to ${code}?` : 'Something happened'"
    wide
    @close="emit('close')"
  >
    <p v-if="course.state === 'opened'" class="mt-2 font-bold">
      The key is open, so this will be marked as decided after the fact.
    </p>
    <form class="mt-4 grid gap-4" @submit.prevent="go">
      <div class="grid gap-4 sm:grid-cols-3">
        <label class="block"
          ><span class="mb-1 block font-bold">What kind of thing</span
          ><select v-model="kind" class="field">
            <option v-for="one in KINDS" :key="one.value" :value="one.value">{{ one.name }}</option>
          </select></label
        >
        <div>
          <label class="block"
            ><span class="mb-1 block font-bold">When (time of this device)</span
            ><input
              v-model="since"
              type="datetime-local"
              class="field"
              :aria-invalid="says('since') ? 'true' : undefined"
              :aria-describedby="told" /></label
          ><ProblemText :id="told" :says="says('since')" />
        </div>
        <LabelledField
          v-model="codes"
          :label="`Which ${course.sample_words}`"
          placeholder="all of them"
          hint="Codes, with spaces between; none: all of them."
          :says="says('codes')"
        />
      </div>
      <LabelledField
        v-model="reason"
        label="What happened?"
        placeholder="knocked over by the wind"
        autocomplete="off"
        :says="says('reason')"
      />
      <ChoiceRow v-model="effect" legend="What is done with them" :choices="EFFECTS" />
      <ProblemText :says="other" />
      <SaidAnyway :asks="asks" :busy="busy" @insist="insist" />
      <div class="flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy">Write it down</button>
        <button type="button" class="press" @click="emit('close')">Leave it</button>
      </div>
    </form>
  </DialogSheet>
</template>
