<script setup lang="ts">
/** Ask some of the treatments again, with this trial as their reference. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import ProblemText from "@/parts/ProblemText.vue";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";
import { queryClient } from "@/shell/query";
import { keys } from "@/shell/queryKeys";

const props = defineProps<{
  id: string;
  treatments: readonly Schemas["TreatmentOut"][];
  leader: string | null;
}>();
const router = useRouter();
const { busy, other, through } = useAct([]);
const open = ref(false);
/** The one that leads, and what it is held against. */
const chosen = ref(
  props.treatments
    .filter((one) => one.name === props.leader || one.kind !== "treatment")
    .map((one) => one.key),
);
const enough = computed(() => chosen.value.length > 1);
const follow = () =>
  through(async () => {
    const begun = await answer(
      api.POST("/api/trials/{trial_id}/again", {
        params: { path: { trial_id: props.id } },
        body: { samples: null, only: chosen.value },
      }),
    );
    await queryClient.invalidateQueries({ queryKey: keys.shelf() });
    await router.push({ name: "plan", params: { id: begun.id, part: "question" } });
  });
</script>

<template>
  <section class="no-print mt-6 max-w-4xl" aria-label="Follow it up">
    <button type="button" class="press" :aria-expanded="open" @click="open = !open">
      Follow some of them up
    </button>
    <div v-if="open" class="mt-3 border-2 border-ink p-4">
      <p class="max-w-2xl">
        A trial of its own on the same question, of those that you choose. What this one found goes with it as
        the reference.
      </p>
      <ul class="mt-2 grid gap-x-6 sm:grid-cols-2">
        <li v-for="one in treatments" :key="one.key">
          <label class="flex min-h-11 items-center gap-3"
            ><input
              v-model="chosen"
              type="checkbox"
              :value="one.key"
              class="h-6 w-6 flex-none accent-ink"
            /><span
              >{{ one.name }}<span v-if="one.kind !== 'treatment'" class="text-soft">, control</span></span
            ></label
          >
        </li>
      </ul>
      <p v-if="!enough" class="mt-2 text-soft">Choose at least two, one of them a control if you can.</p>
      <button type="button" class="press press-main mt-3" :disabled="busy || !enough" @click="follow">
        Plan the follow-up
      </button>
      <ProblemText :says="other" />
    </div>
  </section>
</template>
