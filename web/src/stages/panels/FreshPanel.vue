<script setup lang="ts">
/** Asking again what the last panel left open: a fresh panel with the same plan, and a key of its own. */
import { useRouter } from "vue-router";

import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";
import { keys } from "@/shell/queryKeys";

const props = defineProps<{ panel: Schemas["PanelOut"]; course: Schemas["CourseOut"] }>();
const router = useRouter();
const { busy, other, through } = useAct([]);
const again = () =>
  through(async () => {
    const plan = { ...props.panel.plan, title: `${props.panel.plan.title}, again`.slice(0, 200), on: null };
    const path = { params: { path: { trial_id: props.course.id } } };
    const made = await answer(api.POST("/api/trials/{trial_id}/panels", { ...path, body: { plan } }));
    await queryClient.invalidateQueries({ queryKey: keys.panels(props.course.id) });
    await router.push({ name: "panel", params: { id: props.course.id, panel: made.id } });
  });
</script>

<template>
  <div class="no-print border-t-2 border-ink pt-3">
    <h2>Ask it again</h2>
    <p class="max-w-2xl">
      A fresh panel asks what this one left open. It has cups, people and a key of its own; its answers are
      not added to these.
    </p>
    <ProblemText :says="other" />
    <button type="button" class="press mt-2" :disabled="busy" @click="again">Plan a fresh panel</button>
  </div>
</template>
