<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** Bring in what is there already: a table of results, looked at and corrected, or a trial pack; a trial with
 * its verdict comes of it.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import BroughtTable from "./BroughtTable.vue";
import { moment } from "@/parts/moments";
import { answer, api } from "@/shell/api/client";
import { problemsOf, type Problem } from "@/shell/api/problems";
import { queryClient } from "@/shell/query";

const props = defineProps<{ id?: string }>();
const router = useRouter();
const over = ref(false);
const busy = ref(false);
const problems = ref<Problem[]>([]);
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const { data: own } = useQuery({
  queryKey: keys.bringings(),
  queryFn: () => answer(api.GET("/api/imports")),
});
const waiting = computed(() =>
  (own.value?.bringings ?? []).filter((one) => one.state !== "done" && one.id !== props.id),
);
const { data: row, refetch } = useQuery({
  queryKey: keys.bringing(computed(() => props.id)),
  queryFn: () =>
    answer(api.GET("/api/imports/{import_id}", { params: { path: { import_id: sure(props.id) } } })),
  enabled: computed(() => Boolean(props.id)),
  refetchInterval: (query) => (query.state.data?.state === "running" ? 700 : false),
});
async function send(file: File | undefined): Promise<void> {
  if (!file) return;
  busy.value = true;
  problems.value = [];
  try {
    const form = new FormData();
    form.append("file", file);
    const made = await answer(
      api.POST("/api/imports", {
        body: form as never,
        bodySerializer: (body: unknown) => body as FormData,
      }),
    );
    await queryClient.invalidateQueries({ queryKey: keys.bringings() });
    await router.push({ name: "bring", params: { id: made.id } });
    if (made.kind === "pack") await carry();
  } catch (error) {
    problems.value = problemsOf(error);
  } finally {
    busy.value = false;
  }
}
function dropped(event: DragEvent): void {
  over.value = false;
  void send(event.dataTransfer?.files[0]);
}
async function carry(): Promise<void> {
  try {
    await answer(
      api.POST("/api/imports/{import_id}/in", { params: { path: { import_id: sure(props.id) } } }),
    );
  } catch (error) {
    problems.value = problemsOf(error);
  }
  await refetch();
}
async function forget(id: string): Promise<void> {
  await answer(api.DELETE("/api/imports/{import_id}", { params: { path: { import_id: id } } }));
  await queryClient.invalidateQueries({ queryKey: keys.bringings() });
  if (id === props.id) await router.push({ name: "bring", params: {} });
}
async function read(): Promise<void> {
  await queryClient.invalidateQueries({ queryKey: keys.shelf() });
  await router.push({ name: "verdict", params: { id: sure(sure(row.value).trial) } });
}
const share = computed(() => (row.value?.total ? Math.round((100 * row.value.done) / row.value.total) : 0));
</script>

<template>
  <div class="mx-auto max-w-6xl p-4 lg:px-8 lg:py-6">
    <main class="sheet mt-4 p-4 lg:p-8">
      <h1>{{ row ? row.name : "Bring in what you have" }}</h1>
      <template v-if="!id">
        <p class="mt-1 max-w-3xl">
          A table of results that are there already, in any spreadsheet or CSV: a row a sample or a row a
          reading. Field Tally guesses what its columns mean, you put that right, and a trial with its verdict
          comes of it, marked as planned afterwards. Or a trial pack from another Field Tally.
        </p>
        <label
          class="drop mt-5"
          :class="{ over }"
          @dragover.prevent="over = true"
          @dragleave="over = false"
          @drop.prevent="dropped"
        >
          <b class="text-[1.2rem]">{{ busy ? "Reading it…" : "Drop a file here, or choose one" }}</b>
          <span class="text-soft">CSV, XLSX, XLS, ODS, or a trial pack</span>
          <input
            type="file"
            class="sr-only"
            accept=".csv,.tsv,.txt,.xlsx,.xlsm,.xls,.ods,.zip"
            :disabled="busy"
            @change="send(($event.target as HTMLInputElement).files?.[0])"
          />
        </label>
        <ul v-if="problems.length" class="mt-3 grid gap-1" role="alert">
          <li v-for="one in problems" :key="one.at + one.says">
            <b v-if="one.at && one.at !== 'file'">{{ one.at }}: </b>{{ one.says }}
          </li>
        </ul>
        <section v-if="waiting.length" class="rule mt-6 pt-4">
          <h2>Begun and left</h2>
          <ul>
            <li
              v-for="one in waiting"
              :key="one.id"
              class="rule flex flex-wrap items-center justify-between gap-3 py-1"
            >
              <RouterLink :to="{ name: 'bring', params: { id: one.id } }" class="quiet font-bold">{{
                one.name
              }}</RouterLink><span class="text-soft">{{ moment(one.at, zone) }}</span
              ><button class="quiet" @click="forget(one.id)">Forget it</button>
            </li>
          </ul>
        </section>
      </template>
      <template v-else-if="row">
        <div v-if="row.state === 'running'" class="mt-4" role="status">
          <p class="text-[1.2rem] font-bold">It is coming in{{ row.total ? `, ${share} in 100` : "" }}.</p>
          <progress
            class="mt-2 h-3 w-full max-w-xl"
            :max="row.total || 1"
            :value="row.total ? row.done : undefined"
            aria-label="How far it is"
          />
          <p class="mt-2 text-soft">
            You can leave this page; it goes on, and comes in as a whole or not at all.
          </p>
        </div>
        <div v-else-if="row.state === 'done'" class="mt-4" role="status">
          <p class="text-[1.4rem] font-bold">It is in.</p>
          <ul v-if="row.warnings.length" class="mt-2 grid list-disc gap-1 pl-5">
            <li v-for="one in row.warnings" :key="one">{{ one }}</li>
          </ul>
          <p class="mt-4 flex flex-wrap gap-3">
            <button class="press press-main" @click="read">
              {{ row.kind === "table" ? "Read the verdict" : "Open the trial" }}</button><RouterLink
              class="press"
              :to="{ name: 'bring', params: {} }"
              >Bring in another</RouterLink
            >
          </p>
        </div>
        <div v-else-if="row.state === 'waits' && row.trial" class="mt-4" role="status">
          <p class="text-[1.2rem] font-bold">
            It goes on: its readings come in when the plan of the rest is sealed.
          </p>
          <p class="mt-3">
            <RouterLink
              class="press press-main"
              :to="{ name: 'plan', params: { id: row.trial, part: 'begun' } }"
              >Go on with that plan</RouterLink
            >
          </p>
        </div>
        <template v-else>
          <div
            v-if="row.state === 'refused' || row.state === 'failed'"
            class="mt-3 border-l-4 border-ink pl-4"
            role="alert"
          >
            <p class="font-bold">Nothing came in:</p>
            <ul class="mt-1 grid gap-1">
              <li v-for="one in row.problems" :key="one.at + one.says">
                <b v-if="one.at">{{ one.at }}: </b>{{ one.says }}
              </li>
            </ul>
          </div>
          <BroughtTable v-if="row.kind === 'table'" :id="id" :key="id" @in="carry" />
          <p v-else-if="row.state === 'new' || row.state === 'failed'" class="mt-4">
            <button class="press press-main" @click="carry">Bring it in</button>
          </p>
          <p class="mt-4"><button class="quiet" @click="forget(id)">Forget this file</button></p>
        </template>
      </template>
    </main>
  </div>
</template>

<style scoped>
.drop {
  display: grid;
  place-items: center;
  gap: 0.4rem;
  min-height: 190px;
  padding: 1.5rem;
  background: var(--ground);
  border: 3px dashed var(--soft);
  cursor: pointer;
  text-align: center;
}
.over {
  border-color: var(--ink);
  background: var(--sheet);
}
.drop:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 3px;
}
</style>
