<script setup lang="ts">
/** The log: all that was read and all that happened, old values among it. */
import { computed } from "vue";

import { honest, reading } from "@/parts/amounts";
import { moment } from "@/parts/moments";
import NothingHere from "@/parts/NothingHere.vue";
import type { Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { useLog } from "@/shell/query";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data: log, error } = useLog(() => props.id);
const scales = computed(() => new Map(props.course.outcomes.map((outcome) => [outcome.name, outcome.scale])));

function valueOf(entry: Schemas["LogEntry"], value: number | null): string {
  if (value === null) return "";
  const scale = scales.value.get(entry.outcome);
  return scale ? reading(value, scale) : honest(value, 6);
}
const WHAT: Record<string, string> = {
  set_aside: "set aside",
  put_back: "put back",
  key_look: "looked at the key to prepare the samples; their rounds count as open from here on",
  sealed: "Plan sealed, codes drawn",
  started: "Exposure started",
  opened: "Key opened",
  amended: "Plan amended",
  difference: "was not held equal",
  skipped: "was skipped",
  cycle: "A cycle was counted",
  given: "Given",
  shuffled: "Shuffled by hand: nobody knows the key",
  uncovered: "The covers came off",
};
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <p class="text-soft">{{ course.title }}</p>
    <h1>Log</h1>
    <p v-if="log" class="mt-1 text-soft">
      {{ log.readings }} readings in all. Nothing here is ever changed or deleted; a correction stands above what it corrects.
    </p>
    <p v-if="log && !log.entries.length" class="mt-6">Nothing has happened yet. The log begins when the plan is sealed.</p>
    <div class="mt-5 overflow-x-auto" tabindex="0" role="region" aria-label="Log">
      <table v-if="log?.entries.length" class="figures">
        <thead>
          <tr><th scope="col">When</th><th scope="col">Sample</th><th scope="col">What</th><th scope="col">Value</th><th scope="col">By</th></tr>
        </thead>
        <tbody>
          <tr v-for="(entry, i) in log.entries" :key="i" :class="{ 'text-soft': entry.replaced }">
            <td class="whitespace-nowrap">{{ moment(entry.at, course.zone) }}</td>
            <td class="code">{{ entry.code }}</td>
            <td>
              <template v-if="WHAT[entry.what]">{{ entry.what === "difference" ? `${entry.outcome} ` : entry.what === "skipped" ? `${entry.checkpoint} ` : "" }}{{ WHAT[entry.what] }}<template v-if="entry.reason && entry.what !== 'sealed'">: {{ entry.reason }}</template></template>
              <template v-else-if="entry.what === 'note'">{{ entry.words }}<span v-if="entry.reason" class="block text-[0.92rem] text-soft">{{ entry.reason }}</span></template>
              <template v-else>
                {{ entry.outcome }}, {{ entry.checkpoint }}
                <template v-if="entry.what === 'cannot'"> could not be scored: {{ entry.reason }}</template>
                <template v-else-if="entry.what === 'withdrawn'"> taken back</template>
                <template v-else-if="entry.reason">, {{ entry.reason }}</template><template v-if="entry.source">, {{ entry.source }}</template>
              </template>
            </td>
            <td class="whitespace-nowrap">
              <span v-if="entry.words && entry.what !== 'note'" class="block max-w-72 whitespace-normal">{{ entry.words }}</span>
              <s v-if="entry.replaced">{{ valueOf(entry, entry.value) }}</s>
              <template v-else>{{ valueOf(entry, entry.value) }}</template>
              <span v-if="entry.old_value !== null && !entry.replaced" class="text-soft">, was {{ valueOf(entry, entry.old_value) }}</span>
              <span v-if="entry.what === 'sealed'" class="code font-normal" :title="entry.reason">{{ entry.reason.slice(0, 12) }}…</span>
            </td>
            <td class="whitespace-nowrap">{{ entry.by }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
