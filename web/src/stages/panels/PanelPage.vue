<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** One panel: planned with what it can find beside it, hosted while people judge, read once the key is open.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import AssessorList from "./AssessorList.vue";
import FreshPanel from "./FreshPanel.vue";
import PanelHost from "./PanelHost.vue";
import PanelPlanner from "./PanelPlanner.vue";
import PanelResult from "./PanelResult.vue";
import FoldPart from "@/parts/FoldPart.vue";
import NothingHere from "@/parts/NothingHere.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { queryClient } from "@/shell/query";

const props = defineProps<{ id: string; panel: string; course: Schemas["CourseOut"] }>();
const key = computed(() => keys.panel(props.panel));
const { data, error } = useQuery({
  queryKey: key,
  queryFn: () => answer(api.GET("/api/panels/{panel_id}", { params: { path: { panel_id: props.panel } } })),
  refetchInterval: (query) => (query.state.data?.state === "open" ? 4_000 : false),
});
const put = (panel: Schemas["PanelOut"]) => queryClient.setQueryData(key.value, panel);
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else-if="data" class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <p class="text-soft">
      <RouterLink :to="{ name: 'panels', params: { id } }">Panels</RouterLink>, {{ course.title }}
    </p>
    <template v-if="data.opened_at">
      <PanelResult :id="panel" />
      <FoldPart title="Who judged" :inside="`${data.assessors.length} people`" class="mt-8">
        <AssessorList :panel="data" :course="course" @changed="put" />
      </FoldPart>
      <FreshPanel v-if="course.may_lead" :panel="data" :course="course" class="mt-6" />
    </template>
    <PanelPlanner v-else-if="data.state === 'planned'" :panel="data" :course="course" @changed="put" />
    <PanelHost v-else :panel="data" :course="course" @changed="put" />
  </section>
</template>
