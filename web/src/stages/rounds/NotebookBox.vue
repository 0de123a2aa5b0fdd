<script lang="ts">
/** Whose notebook is typed in, by trial: one person's, look after look. */
const whoseIn = reactive(new Map<string, string>());
</script>

<script setup lang="ts">
/** Looks that were taken before the seal: whoever knows what stands where types them in. */
import { computed, reactive } from "vue";

import { wordFor, sampleOf } from "@/parts/nouns";
import { weekday } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const looks = computed(() => props.course.checkpoints.filter((one) => one.noted));
const open = computed(() => looks.value.filter((one) => one.standing !== "taken"));
const whose = computed({
  get: () => whoseIn.get(props.id) ?? "",
  set: (name) => whoseIn.set(props.id, name),
});
</script>

<template>
  <section
    v-if="open.length"
    class="no-print mt-5 border-l-[10px] border-ink bg-ground p-4"
    aria-label="The notebook"
  >
    <h2>{{ open.length === 1 ? "One look stands" : `${open.length} looks stand` }} in the notebook</h2>
    <p class="mt-1 max-w-2xl">
      They were taken before the seal. Type them in by the names in your notebook; whoever scores blind from
      now on does not read them.
    </p>
    <label class="mt-2 block max-w-72"
      ><span class="mb-1 block text-[0.9rem] text-soft">Who looked, if not you</span
      ><input v-model="whose" class="field bg-sheet" maxlength="80" autocomplete="off"
    /></label>
    <ul class="mt-2 flex flex-wrap gap-2">
      <li v-for="one in open" :key="one.key">
        <RouterLink
          class="press"
          :to="{
            name: 'round',
            params: { id, checkpoint: one.key },
            query: whose.trim() ? { looked_by: whose.trim() } : {},
          }"
          >{{ one.done ? "Go on with" : "Type in" }} {{ one.name }}
          <span class="ml-2 font-normal"
            >{{ one.due ? weekday(one.due, course.zone) : ""
            }}{{
              one.done
                ? `, ${one.samples - one.samples_done} ${wordFor(one.samples - one.samples_done, sampleOf(course))} left`
                : ""
            }}</span
          ></RouterLink
        >
      </li>
    </ul>
  </section>
</template>
