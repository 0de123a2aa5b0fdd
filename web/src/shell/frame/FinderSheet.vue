<script setup lang="ts">
/** The finder: trials, samples, treatments, pages and sums by a few letters; without a network, what the
 * device has. */
import { keepPreviousData, useQuery } from "@tanstack/vue-query";
import { computed, nextTick, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { stopsOf } from "./course";
import { finding } from "./finding";
import { bestOf, type Found } from "./found";
import { trialPages } from "./trialPages";
import DialogSheet from "@/parts/DialogSheet.vue";
import { answer, api } from "@/shell/api/client";
import { useNow } from "@/shell/now";
import { PLACES } from "@/shell/places";
import { useCourse, useShelf } from "@/shell/query";
import { keys } from "@/shell/queryKeys";
import { PAGES as GUIDE } from "@/stages/guide/pages";
import { PARTS } from "@/stages/plan/planParts";

const route = useRoute();
const router = useRouter();
const now = useNow();
const typed = ref("");
const asked = ref("");
const at = ref(0);
const field = ref<HTMLInputElement>();
const { data: shelf } = useShelf();
const trial = computed(() => (route.path.startsWith("/trials/") ? String(route.params.id) : ""));
const { data: course } = useCourse(trial, () => trial.value !== "");
const { data: bench } = useQuery({
  queryKey: keys.sums(),
  queryFn: () => answer(api.GET("/api/bench")),
  staleTime: Infinity,
});
const { data: told, isFetching } = useQuery({
  queryKey: keys.found(asked),
  queryFn: () => answer(api.GET("/api/find", { params: { query: { text: asked.value } } })),
  enabled: computed(() => asked.value !== ""),
  retry: false,
  staleTime: 20_000,
  placeholderData: keepPreviousData,
});
let timer = 0;
watch(typed, (text) => {
  at.value = 0;
  window.clearTimeout(timer);
  timer = window.setTimeout(() => (asked.value = text.trim()), 200);
});

const trialAt = (id: string, state: string) => ({
  name: state === "opened" ? "verdict" : "board",
  params: { id },
});
const inTrial = computed<Found[]>(() => {
  if (!course.value) return [];
  const { id, title } = course.value;
  const stops = stopsOf(course.value, now.value).flatMap(({ key, label, to }) =>
    to ? [{ key, label, to }] : [],
  );
  return [
    ...stops.map((stop) => ({
      key: `stop ${stop.key}`,
      kind: "page",
      name: stop.label,
      says: title,
      to: stop.to,
    })),
    ...trialPages(course.value).map((one) => ({
      key: `page ${one.name}`,
      kind: "page",
      name: one.label,
      says: title,
      to: { name: one.name, params: { id } },
    })),
    ...(stops.some((stop) => stop.key === "plan")
      ? PARTS.map((part) => ({
          key: `part ${part.key}`,
          kind: "page",
          name: part.name,
          says: `plan of ${title}`,
          to: { name: "plan", params: { id, part: part.key } },
        }))
      : []),
  ];
});
const here = computed<Found[]>(() => [
  ...(shelf.value?.trials ?? []).map((one) => ({
    key: `trial ${one.id}`,
    kind: "trial",
    name: one.title,
    says: one.question,
    to: trialAt(one.id, one.state),
  })),
  ...inTrial.value,
  ...PLACES.map((one) => ({
    key: `place ${one.key}`,
    kind: "page",
    name: one.name,
    says: one.says,
    to: one.to,
  })),
  ...(bench.value?.sums ?? []).map((one) => ({
    key: `sum ${one.key}`,
    kind: "sum",
    name: one.name,
    says: one.formula,
    to: { name: "bench", params: { sum: one.key } },
  })),
  ...GUIDE.map((one) => ({
    key: `guide ${one.key}`,
    kind: "guide",
    name: one.title,
    says: "",
    to: { name: "guide", params: { page: one.key } },
  })),
]);
const there = computed<Found[]>(() =>
  (told.value?.found ?? []).map((one) => ({
    key: one.kind === "trial" ? `trial ${one.trial}` : `${one.kind} ${one.trial} ${one.name}`,
    kind: one.kind,
    name: one.name,
    says: one.kind === "trial" ? "" : one.title,
    to: one.sample ? { name: "sample", params: { id: one.sample } } : trialAt(one.trial, one.state),
  })),
);
const rows = computed(() => bestOf([...there.value, ...here.value], typed.value));
const says = computed(() =>
  rows.value.length
    ? `${rows.value.length} found`
    : isFetching.value
      ? ""
      : `Nothing called “${typed.value.trim()}” is here.`,
);
watch(
  finding,
  async (open) => {
    if (!open) return;
    typed.value = asked.value = "";
    await nextTick();
    field.value?.focus();
  },
  { immediate: true },
);
/** Enter was pressed before there was anything: who types fast is not asked to press again. */
const hurried = ref(false);
watch(rows, ([first]) => {
  if (hurried.value && first) go(first);
});
watch(typed, () => (hurried.value = false));
function go(one: Found | undefined): void {
  hurried.value = !one;
  if (!one) return;
  finding.value = false;
  void router.push(one.to);
}
async function move(by: number): Promise<void> {
  at.value = Math.max(0, Math.min(rows.value.length - 1, at.value + by));
  await nextTick();
  document.getElementById(`found-${at.value}`)?.scrollIntoView({ block: "nearest" });
}
</script>

<template>
  <DialogSheet :open="finding" title="Find" @close="finding = false">
    <input
      ref="field"
      v-model="typed"
      class="field mt-3 text-[1.2rem]"
      type="text"
      role="combobox"
      aria-label="A few letters of a trial, a code, a treatment, a page or a sum"
      placeholder="Trial, code, treatment, page, sum"
      autocomplete="off"
      aria-controls="found"
      aria-autocomplete="list"
      :aria-expanded="rows.length > 0"
      :aria-activedescendant="rows.length ? `found-${at}` : undefined"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.enter.prevent="go(rows[at])"
    />
    <p class="mt-3" :class="{ 'sr-only': rows.length || !says }" role="status">{{ says }}</p>
    <ul id="found" class="mt-3 max-h-[50dvh] overflow-y-auto" role="listbox" aria-label="Found">
      <!-- The keyboard chooses with the field's own keys. -->
      <!-- eslint-disable-next-line vuejs-accessibility/click-events-have-key-events -->
      <li
        v-for="(one, i) in rows"
        :id="`found-${i}`"
        :key="one.key"
        class="row"
        :class="{ at: i === at }"
        role="option"
        :aria-selected="i === at"
        @click="go(one)"
        @pointermove="(event) => (event.movementX || event.movementY) && (at = i)"
      >
        <span class="min-w-0"
          ><b>{{ one.name }}</b
          ><span v-if="one.says" class="block truncate text-soft">{{ one.says }}</span></span
        ><span class="flex-none whitespace-nowrap text-soft">{{ one.kind }}</span>
      </li>
    </ul>
    <button type="button" class="press mt-4" @click="finding = false">Close</button>
  </DialogSheet>
</template>

<style scoped>
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 1rem;
  min-height: 52px;
  padding: 0.3rem 0.7rem;
  border-top: 1px solid var(--line);
  cursor: pointer;
}
.row.at {
  box-shadow: inset 7px 0 0 var(--ink);
  background: var(--ground);
}
</style>
