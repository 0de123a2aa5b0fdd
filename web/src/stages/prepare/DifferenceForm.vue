<script setup lang="ts">
/** How something that was to be held equal differed after all. */
import { ref, useId } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import { answer, api } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const props = defineProps<{ id: string; about: string; what: string }>();
const emit = defineEmits<{ told: []; close: [] }>();
const field = useId();
const reason = ref("");
const { busy, says, other, through, asks, insist, said } = useAct(["reason"]);
const tell = () =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/differences", {
        ...said(),
        params: { path: { trial_id: props.id } },
        body: { about: props.about, reason: reason.value },
      }),
    );
    emit("told");
  });
const told = useId();
</script>

<template>
  <form class="pb-3 pl-16" @submit.prevent="tell">
    <label :for="field" class="block text-[0.9rem] text-soft"
      >How did {{ what }} differ? The verdict will tell it.</label
    >
    <div class="mt-1 flex flex-wrap gap-2">
      <input
        :id="field"
        v-model="reason"
        class="field max-w-96 grow"
        autocomplete="off"
        :aria-invalid="says('reason') ? 'true' : undefined"
        :aria-describedby="told"
      />
      <button class="press press-small" :disabled="busy">Record it</button>
      <button type="button" class="quiet" @click="emit('close')">Leave it</button>
    </div>
    <ProblemText :id="told" :says="says('reason') ?? other" />
    <SaidAnyway :asks="asks" :busy="busy" @insist="insist" />
  </form>
</template>
