<script setup lang="ts">
/** The frame of a trial: its course at the side (or as a strip on a phone), and the page it leads to. */
import { computed, watchEffect } from "vue";
import { useRoute, useRouter } from "vue-router";

import CourseRail from "./CourseRail.vue";
import CourseStrip from "./CourseStrip.vue";
import { stopsOf } from "./course";
import { trialPages } from "./trialPages";
import NothingHere from "@/parts/NothingHere.vue";
import { problemsOf } from "@/shell/api/problems";
import { useCourse } from "@/shell/query";
import { useNow } from "@/shell/now";
import RefusedList from "@/parts/RefusedList.vue";
import { useWaiting } from "@/shell/waiting";
import ZoneNote from "@/parts/ZoneNote.vue";
import { about } from "@/shell/places";

const props = defineProps<{ id: string }>();
const NO_TASTING = ["board", "plan", "prepare"];
const route = useRoute();
const router = useRouter();
const { data: course, error } = useCourse(() => props.id);
const now = useNow();
const { refused, look } = useWaiting(() => props.id);
watchEffect(() => (about.value = course.value?.title ?? ""));
const here = computed(() => String(route.name ?? ""));
/** Of a tasting there is no board and no plan with looks: its panels are all of it. */
watchEffect(() => {
  if (!course.value?.is_tasting) return;
  if (NO_TASTING.includes(here.value) || (here.value === "verdict" && course.value.state !== "opened"))
    void router.replace({ name: "panels", params: { id: props.id } });
});
const stops = computed(() => (course.value ? stopsOf(course.value, now.value) : []));
const label = computed(() => `Course of ${course.value?.title ?? "the trial"}`);
</script>

<template>
  <div class="lg:grid lg:grid-cols-[224px_minmax(0,1fr)]">
    <header class="no-print lg:sticky lg:top-0 lg:h-dvh lg:overflow-y-auto">
      <template v-if="course">
        <CourseStrip class="pb-1 lg:hidden" :stops="stops" :here="here" :label="label" />
        <div class="hidden px-3 lg:block lg:pt-4">
          <CourseRail :stops="stops" :here="here" :label="label" />
        </div>
        <ul
          class="flex flex-wrap gap-x-1 px-3 [&_a]:whitespace-nowrap lg:mt-3 lg:grid lg:grid-cols-2 lg:gap-0 lg:px-3 lg:pb-4"
        >
          <li
            v-for="one in trialPages(course)"
            :key="one.name"
            :class="{ 'col-span-2': one.label.includes(' ') }"
          >
            <RouterLink
              class="quiet inline-flex items-center"
              :to="{ name: one.name, params: { id } }"
              :aria-current="here === one.name ? 'page' : undefined"
              >{{ one.label }}</RouterLink
            >
          </li>
        </ul>
      </template>
    </header>
    <main class="min-w-0 lg:p-4 lg:pl-0">
      <RefusedList class="no-print mx-4 mb-3 bg-sheet lg:mx-0" :rows="refused" @changed="look" />
      <ZoneNote v-if="course" class="mx-4 lg:mx-0" :zone="course.zone" />
      <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
      <RouterView v-else-if="course" :course="course" />
    </main>
  </div>
</template>
