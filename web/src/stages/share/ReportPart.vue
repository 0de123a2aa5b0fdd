<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The report: read, printed, written beside, with chosen photos, and published at an address that can be
 * taken back.
 */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, reactive, ref, watch } from "vue";

import TakeFile from "./TakeFile.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { usePhotos } from "@/shell/query";

const props = defineProps<{ id: string; lead: boolean }>();
const path = { params: { path: { trial_id: props.id } } };
const client = useQueryClient();
const key = keys.report(computed(() => props.id));
const { data } = useQuery({
  queryKey: key,
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/report", path)),
});
const { data: photos } = usePhotos(() => props.id);
const comments = reactive<Record<string, string>>({});
const chosen = ref<string[]>([]);
watch(
  data,
  (now) => {
    if (now) {
      Object.assign(comments, now.comments);
      chosen.value = [...now.photos];
    }
  },
  { immediate: true },
);
const { busy, other, says, through } = useAct([]);
const kept = ref(false);
const copied = ref(false);
const NAMES: Record<string, string> = {
  summary: "Beside the summary",
  compared: "What was compared",
  done: "What was done",
  happened: "What happened",
  result: "What it showed",
  limits: "What may not be claimed",
  cost: "What it cost",
  cautions: "Cautions",
};
function take(out: unknown): void {
  client.setQueryData(keys.report(props.id), out);
}
const keep = () =>
  through(async () => {
    take(
      await answer(
        api.PUT("/api/trials/{trial_id}/report", {
          ...path,
          body: { comments: { ...comments }, photos: chosen.value },
        }),
      ),
    );
    kept.value = true;
  });
const publish = (out: boolean, names = false) =>
  through(async () =>
    take(await answer(api.POST("/api/trials/{trial_id}/publish", { ...path, body: { out, names } }))),
  );
const address = computed(() => (data.value?.token ? `${location.origin}/p/${data.value.token}` : ""));
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(address.value);
  copied.value = true;
}
const shots = computed(() => (photos.value?.photos ?? []).slice(0, 60));
function turn(id: string): void {
  kept.value = false;
  chosen.value = chosen.value.includes(id)
    ? chosen.value.filter((one) => one !== id)
    : [...chosen.value, id].slice(-8);
}
</script>

<template>
  <section v-if="data" class="border-t-2 border-ink pt-3" aria-label="Report">
    <h2>The report</h2>
    <p class="mt-1 max-w-3xl">
      Made from the trial itself, in its own words: what was asked, done, happened and found, what may not be
      claimed, cost, cautions, all readings, and the seal.
    </p>
    <p class="mt-3 flex flex-wrap gap-3">
      <a class="press press-main" :href="`/api/trials/${id}/report.html`" target="_blank" rel="noopener"
        >Read it</a
      >
      <a class="press" :href="`/api/trials/${id}/report.html?short=true`" target="_blank" rel="noopener"
        >On one page</a
      >
      <TakeFile :trial="id" what="report">PDF, A4</TakeFile>
      <TakeFile :trial="id" what="report" paper="letter">PDF, Letter</TakeFile>
      <TakeFile :trial="id" what="report" short>For the wall, one page</TakeFile>
    </p>
    <p v-if="data.many_readings" class="mt-3 flex flex-wrap items-center gap-3">
      <TakeFile :trial="id" what="report" whole>A4, with all readings</TakeFile>
      <TakeFile :trial="id" what="report" paper="letter" whole>Letter, with all readings</TakeFile>
      <span class="max-w-xl text-soft"
        >The values of single samples are many: they are in the workbook, and on paper only when you ask for
        them.</span
      >
    </p>
    <template v-if="lead">
      <details class="mt-4">
        <summary class="quiet inline-flex items-center">Write beside it, choose photos</summary>
        <form class="mt-2 grid max-w-3xl gap-3" @submit.prevent="keep">
          <label v-for="one in data.sections" :key="one" class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft">{{ NAMES[one] ?? one }}</span
            ><textarea
              v-model="comments[one]"
              rows="2"
              maxlength="4000"
              class="field block"
              @input="kept = false" /><ProblemText :says="says(`comments.${one}`)"
          /></label>
          <fieldset v-if="shots.length">
            <legend class="text-[0.9rem] text-soft">Photos, up to eight</legend>
            <div class="mt-1 flex flex-wrap gap-2">
              <button
                v-for="one in shots"
                :key="one.id"
                type="button"
                class="shot"
                :class="{ chosen: chosen.includes(one.id) }"
                :aria-pressed="chosen.includes(one.id)"
                :aria-label="`Photo ${one.code ?? ''} ${one.caption}`"
                @click="turn(one.id)"
              >
                <img :src="`/api/photos/${one.id}.jpg?small=true`" alt="" loading="lazy" />
              </button>
            </div>
          </fieldset>
          <p class="flex flex-wrap items-center gap-3">
            <button class="press press-main" :disabled="busy">Keep what I wrote</button
            ><span v-if="kept" role="status">Kept.</span>
          </p>
          <p class="text-soft">The figures cannot be changed here.</p>
        </form>
      </details>
      <h3 class="mt-5 font-bold">Published</h3>
      <template v-if="data.token">
        <p class="mt-1 max-w-3xl">
          Anybody with this address may read it. Readers say first what they expect;
          {{ data.readers === 1 ? "one has" : `${data.readers} have` }} so far.
          {{ data.names ? "People are named." : "Nobody is named." }}
        </p>
        <p class="code mt-1 font-normal break-all">
          <a :href="address">{{ address }}</a>
        </p>
        <p class="mt-2 flex flex-wrap gap-3">
          <button type="button" class="press press-small" @click="copy">
            {{ copied ? "Copied" : "Copy the address" }}</button><a
            class="press press-small"
            :href="`/api/published/${data.token}/card.png`"
            download="card.png"
            >Picture for sharing</a
          ><button
            type="button"
            class="press press-small"
            :disabled="busy"
            @click="publish(true, !data.names)"
          >
            {{ data.names ? "Name nobody" : "Name people, they agreed" }}</button
          ><button type="button" class="press press-small" :disabled="busy" @click="publish(false)">
            Take it back
          </button>
        </p>
      </template>
      <template v-else
        ><p class="mt-1 max-w-3xl">
          Not published. Once it is, it has an address that nobody guesses; take it back and that address is
          worth nothing. Nobody is named unless you say that all agreed.
        </p>
        <button type="button" class="press mt-2" :disabled="busy" @click="publish(true)">
          Publish it
        </button></template
      >
    </template>
    <ProblemText :says="other" />
  </section>
</template>

<style scoped>
.shot {
  width: 96px;
  height: 72px;
  padding: 0;
  border: 3px solid transparent;
  cursor: pointer;
}
.shot img {
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.chosen {
  border-color: var(--ink);
}
</style>
