<script setup lang="ts">
/** The frame of a trial: its course at the side (or as a strip on a phone), and the page it leads to. */
import { computed } from "vue";
import { useRoute } from "vue-router";

import CourseRail from "./CourseRail.vue";
import CourseStrip from "./CourseStrip.vue";
import FieldTallyMark from "./FieldTallyMark.vue";
import { stopsOf } from "./course";
import NothingHere from "@/parts/NothingHere.vue";
import { problemsOf } from "@/shell/api/problems";
import { useCourse } from "@/shell/query";
import { useNow } from "@/shell/now";
import RefusedList from "@/parts/RefusedList.vue";
import { useWaiting } from "@/shell/waiting";

const props = defineProps<{ id: string }>();
const route = useRoute();
const { data: course, error } = useCourse(() => props.id);
const now = useNow();
const { refused, look } = useWaiting(() => props.id);
const here = computed(() => String(route.name ?? ""));
const stops = computed(() => (course.value ? stopsOf(course.value, now.value) : []));
const label = computed(() => `Course of ${course.value?.title ?? "the trial"}`);
</script>

<template>
  <div class="lg:grid lg:grid-cols-[248px_1fr]">
    <header class="no-print lg:sticky lg:top-0 lg:h-dvh lg:overflow-y-auto">
      <div class="flex items-center justify-between px-4 py-2 lg:px-6 lg:pt-5">
        <RouterLink to="/" class="no-underline" aria-label="Field Tally, to your shelf"
          ><FieldTallyMark
        /></RouterLink>
        <RouterLink to="/" class="quiet lg:hidden">Shelf</RouterLink>
      </div>
      <template v-if="course">
        <CourseStrip class="pb-1 lg:hidden" :stops="stops" :here="here" :label="label" />
        <div class="hidden px-5 lg:block">
          <CourseRail :stops="stops" :here="here" :label="label" />
        </div>
        <ul
          class="flex flex-wrap gap-x-1 px-3 [&_a]:whitespace-nowrap lg:mt-3 lg:grid lg:grid-cols-2 lg:gap-0 lg:px-5 lg:pb-4"
        >
          <li>
            <RouterLink class="quiet inline-flex items-center" :to="{ name: 'board', params: { id } }"
              >Board</RouterLink
            >
          </li>
          <li v-if="course.sees_readings || course.may_lead">
            <RouterLink class="quiet inline-flex items-center" :to="{ name: 'log', params: { id } }"
              >Log</RouterLink
            >
          </li>
          <li v-if="course.may_lead || course.role === 'preparer' || course.opened_at">
            <RouterLink class="quiet inline-flex items-center" :to="{ name: 'panels', params: { id } }"
              >Panels</RouterLink
            >
          </li>
          <li v-if="course.role !== 'viewer' || course.opened_at">
            <RouterLink class="quiet inline-flex items-center" :to="{ name: 'photos', params: { id } }"
              >Photos</RouterLink
            >
          </li>
          <li v-if="['sealed', 'running'].includes(course.state) && ['lead', 'scorer'].includes(course.role)">
            <RouterLink class="quiet inline-flex items-center" :to="{ name: 'training', params: { id } }"
              >Practise</RouterLink
            >
          </li>
          <li v-if="course.state !== 'draft' && (course.may_lead || course.opened_at)">
            <RouterLink class="quiet inline-flex items-center" :to="{ name: 'agreement', params: { id } }"
              >Agreement</RouterLink
            >
          </li>
          <li>
            <RouterLink class="quiet inline-flex items-center" :to="{ name: 'people', params: { id } }"
              >People</RouterLink
            >
          </li>
          <li class="hidden lg:block">
            <RouterLink class="quiet inline-flex items-center" to="/">Shelf</RouterLink>
          </li>
        </ul>
      </template>
    </header>
    <main class="min-w-0 lg:p-4 lg:pl-0">
      <RefusedList class="no-print mx-4 mb-3 bg-sheet lg:mx-0" :rows="refused" @changed="look" />
      <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
      <RouterView v-else-if="course" :course="course" />
    </main>
  </div>
</template>
