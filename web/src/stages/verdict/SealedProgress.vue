<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** How a trial comes along while its key is sealed: all samples together, in ink, without treatments; and its
 * interim looks.
 */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import SpreadChart from "@/charts/SpreadChart.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { isShare } from "@/parts/amounts";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import type { Noun } from "@/parts/nouns";

const props = defineProps<{ id: string; sample: Noun }>();
const path = { trial_id: props.id };
const client = useQueryClient();
const { data } = useQuery({
  queryKey: keys.progress(computed(() => props.id)),
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/progress", { params: { path } })),
});
const { busy, other, through } = useAct([]);
const asking = ref<Schemas["InterimOut"] | null>(null);
const look = () =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/interim", {
        params: { path },
        body: { checkpoint: sure(asking.value).checkpoint },
      }),
    );
    asking.value = null;
    await client.invalidateQueries({ queryKey: keys.progress(props.id) });
  });
const yes = (values: readonly number[]) => values.filter((one) => one === 1).length;
const days = (iso: string) => new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "long" });
</script>

<template>
  <section v-if="data" class="mt-7" aria-label="How it comes along">
    <template v-if="data.interim.length">
      <h2 class="border-b-2 border-ink pb-1">Interim looks</h2>
      <p class="mt-2 max-w-2xl">{{ data.price }} Each tells stop or go on, once, and no treatment.</p>
      <ul class="mt-2 max-w-3xl">
        <li
          v-for="one in data.interim"
          :key="one.checkpoint"
          class="rule flex flex-wrap items-center justify-between gap-x-6 gap-y-1 py-2"
        >
          <b>{{ one.name }}</b>
          <span v-if="one.taken_at"
            ><b>{{ one.stop ? "Stop." : "Go on." }}</b>
            {{ one.says.replace(/^(Stop|Go on)[^:]*: /, "").replace(/^./, (c) => c.toUpperCase()) }}
            <span class="text-soft">{{ one.taken_by }}, {{ days(one.taken_at) }}</span></span
          >
          <button v-else-if="one.ready" class="press press-small" @click="asking = one">
            Ask whether it is clear already
          </button>
          <span v-else class="text-soft">once this look is scored</span>
        </li>
      </ul>
      <ProblemText :says="asking ? '' : other" />
    </template>
    <template v-if="data.outcomes.length">
      <h2 class="mt-6 border-b-2 border-ink pb-1">All {{ sample.many }} together</h2>
      <p class="mt-2 max-w-2xl text-soft">
        Each dot is a {{ sample.one }} at a finished look, without code or treatment: whether scores spread,
        crowd at one end, or stand still can be seen, who leads cannot.
      </p>
      <div class="mt-3 grid gap-x-8 gap-y-5 lg:grid-cols-2">
        <div v-for="one in data.outcomes" :key="one.outcome" class="min-w-0">
          <h3 class="font-bold">{{ one.name }}</h3>
          <ul v-if="isShare(one.scale)" class="mt-1">
            <li v-for="at in one.looks" :key="at.checkpoint" class="rule flex items-center gap-4 py-2">
              <span class="min-w-24">{{ at.name }}</span><TallyStrokes
                :solid="yes(at.values)"
                :rest="at.values.length - yes(at.values)"
                :height="20"
                :label="`${yes(at.values)} of ${at.values.length}`"
              /><span class="ml-auto"
                >{{ yes(at.values) }} of {{ at.values.length }}
                {{ one.scale.kind === "passfail" ? one.scale.pass_word : "seen" }}</span
              >
            </li>
          </ul>
          <SpreadChart v-else :looks="one.looks" :scale="one.scale" :title="one.name" />
        </div>
      </div>
    </template>
    <DialogSheet :open="asking !== null" title="Take this interim look?" @close="asking = null">
      <p class="mt-2">
        At {{ asking?.name }} the app holds the samples against the key by itself and says stop or go on. It
        goes on record with your name, and cannot be asked again at this look.
      </p>
      <ProblemText :says="other" />
      <div class="mt-4 flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy" @click="look">Ask</button
        ><button class="press" @click="asking = null">Not now</button>
      </div>
    </DialogSheet>
  </section>
</template>
