<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The panels of a trial, and planning a new one. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { freshPanel, METHODS } from "./methods";
import LabelledField from "@/parts/LabelledField.vue";
import NothingHere from "@/parts/NothingHere.vue";
import { moment } from "@/parts/moments";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { useAct } from "@/shell/act";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const router = useRouter();
const path = { params: { path: { trial_id: props.id } } };
const { data, error } = useQuery({
  queryKey: keys.panels(computed(() => props.id)),
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/panels", path)),
});
const title = ref("");
const { busy, says, other, through } = useAct(["title"]);
const plan = () =>
  through(async () => {
    const made = await answer(
      api.POST("/api/trials/{trial_id}/panels", {
        ...path,
        body: { plan: freshPanel(title.value.trim() || "A panel") },
      }),
    );
    await router.push({ name: "panel", params: { id: props.id, panel: made.id } });
  });
const STATES: Record<string, string> = {
  planned: "planned",
  open: "people are judging",
  closed: "closed",
};
const nameOf = (method: string) => METHODS.find((one) => one.key === method)?.name ?? method;
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <h1>Panels</h1>
    <p class="mt-1 max-w-2xl">
      People judge by taste, smell, sound, touch or eye, without knowing what is before them. Each panel has a
      key of its own; what it found stays sealed until you open that.
    </p>
    <ul v-if="data?.panels.length" class="mt-5 grid max-w-3xl gap-3">
      <li v-for="one in data.panels" :key="one.id">
        <RouterLink
          class="press w-full justify-between gap-4"
          :to="{ name: 'panel', params: { id, panel: one.id } }"
          ><span class="min-w-0 text-left"
            >{{ one.title }}<span class="block font-normal text-soft">{{ nameOf(one.method) }}</span
            ><span v-if="one.sentence" class="mt-1 block font-normal">{{ one.sentence }}</span></span
          ><TallyStrokes
            v-if="one.opened_at && one.right !== null"
            class="flex-none"
            :solid="one.right"
            :rest="one.counted - one.right"
            :label="`${one.right} of ${one.counted} right`"
          /><span v-else-if="!one.opened_at" class="flex-none text-right font-normal"
            >{{ one.state === "closed" ? "closed, key sealed" : STATES[one.state]
            }}<span v-if="one.state === 'planned' && one.due" class="block">{{
              moment(one.due, course.zone)
            }}</span
            ><span v-if="one.state !== 'planned'" class="block"
              >{{ one.done }} of {{ one.of }} answers</span
            ></span
          ></RouterLink
        >
      </li>
    </ul>
    <p v-else-if="data" class="mt-5">There is no panel yet.</p>
    <form v-if="course.may_lead" class="mt-6 grid max-w-xl gap-3" @submit.prevent="plan">
      <LabelledField
        v-model="title"
        label="A new panel"
        placeholder="Leaf or no leaf"
        :says="says('title')"
      />
      <ProblemText :says="other" />
      <button class="press press-main justify-self-start" :disabled="busy">Plan it</button>
    </form>
  </section>
</template>
