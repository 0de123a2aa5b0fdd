<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** For whoever brings the samples: which of them come back in this round under a second code. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import { answer, api, type Schemas } from "@/shell/api/client";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"]; checkpoint: string }>();
const { data } = useQuery({
  queryKey: keys.secondCodes(
    computed(() => props.id),
    computed(() => props.checkpoint),
  ),
  queryFn: () =>
    answer(
      api.GET("/api/trials/{trial_id}/second-codes", {
        params: { path: { trial_id: props.id }, query: { checkpoint: props.checkpoint } },
      }),
    ),
});
</script>

<template>
  <div v-if="data?.codes.length" class="rule mt-6 max-w-2xl pt-4">
    <h2>Bring these twice at {{ data.name }}</h2>
    <p class="text-soft">
      Cover the tag and write the second code on it. Bring them in between, where the scorer cannot see the
      place they come from; they must not learn which is which.
    </p>
    <WideTable class="mt-2"
      ><table class="figures max-w-md">
        <thead>
          <tr>
            <th scope="col">The {{ course.sample_word }}</th>
            <th scope="col">comes back as</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in data.codes" :key="one.code">
            <td class="code">{{ one.code }}</td>
            <td class="code text-[1.3rem]">{{ one.second }}</td>
          </tr>
        </tbody>
      </table></WideTable
    >
  </div>
</template>
