<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The baseline before the start: whether it is taken, which samples are odd, and what was measured before
 * the
 * seal.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient, trialChanged } from "@/shell/query";
import { counted, sampleOf } from "@/parts/nouns";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const checkpoints = computed(() => props.course.checkpoints.filter((stop) => stop.baseline));
const { data } = useQuery({
  queryKey: keys.baseline(computed(() => props.id)),
  queryFn: () =>
    answer(api.GET("/api/trials/{trial_id}/baseline", { params: { path: { trial_id: props.id } } })),
  enabled: computed(
    () => checkpoints.value.length > 0 && props.course.sees_readings && props.course.state !== "draft",
  ),
});
const { busy, other, through } = useAct([]);
const take = () =>
  through(async () => {
    await answer(api.POST("/api/trials/{trial_id}/baseline", { params: { path: { trial_id: props.id } } }));
    await queryClient.invalidateQueries({ queryKey: keys.baseline(props.id) });
    await trialChanged(props.id);
  });
</script>

<template>
  <section
    v-if="checkpoints.length"
    class="mt-4 max-w-4xl border-l-4 border-ink py-1 pl-4"
    aria-label="Baseline"
  >
    <div
      v-for="stop in checkpoints"
      :key="stop.key"
      class="flex flex-wrap items-center justify-between gap-3"
    >
      <p>
        <b>{{ stop.name }}</b>, before the start: {{ stop.samples_done }} of
        {{ counted(stop.samples, sampleOf(course)) }} scored.
      </p>
      <span class="flex flex-wrap gap-2">
        <button
          v-if="data?.may_take_over"
          type="button"
          class="press press-small"
          :disabled="busy"
          @click="take"
        >
          Take over the start values
        </button>
        <RouterLink
          v-if="course.may_score && stop.samples_done < stop.samples"
          class="press press-small"
          :to="{ name: 'round', params: { id, checkpoint: stop.key } }"
          >Score it</RouterLink
        >
      </span>
    </div>
    <ProblemText v-for="one in data?.odd ?? []" :key="one.code + one.says" :says="one.says" />
    <ProblemText :says="other" />
  </section>
</template>
