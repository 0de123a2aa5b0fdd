<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The grading trainer: what can be practised in a trial, how far one is, who is ready, where a photo would
 * help.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";
import { useRouter } from "vue-router";

import LearnedView from "./LearnedView.vue";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { reading } from "@/parts/amounts";
import { day } from "@/parts/moments";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import WideTable from "@/parts/WideTable.vue";
import LongName from "@/parts/LongName.vue";

type Trained = Schemas["TrainedOutcome"];
const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const router = useRouter();
const path = { trial_id: props.id };
const { data, error } = useQuery({
  queryKey: keys.training(props.id),
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/training", { params: { path } })),
});
const { busy, other, through } = useAct([]);
const begin = (outcome: string) =>
  through(async () => {
    const made = await answer(
      api.POST("/api/trials/{trial_id}/training", { params: { path }, body: { outcome } }),
    );
    await router.push({ name: "training-set", params: { id: props.id, set: made.id } });
  });
/** What the plan asks for first; what is measured, and so not practised, is named in a line at the end. */
const shown = computed(() =>
  [...(data.value?.outcomes ?? [])]
    .filter((one) => one.kind || judged(one))
    .sort((a, b) => Number(b.asked) - Number(a.asked) || Number(Boolean(b.kind)) - Number(Boolean(a.kind))),
);
const judged = (one: Trained) => ["grade", "passfail", "shade"].includes(one.outcome.scale.kind);
const measured = computed(() =>
  (data.value?.outcomes ?? []).filter((one) => !one.kind && !judged(one)).map((one) => one.outcome.name),
);
const HOW: Record<string, string> = {
  cover: "Drawn leaves, each with a share that is known.",
  shade: "Drawn flower heads of a known shade, in changing light.",
  spots: "Drawn rounds with a known number of spots.",
  photos: "The trial’s own photos of what each level means.",
};
const standing = (one: Trained) =>
  one.ready_until
    ? `You are ready until ${day(one.ready_until, props.course.zone)}`
    : one.asked
      ? "Scored only by those who are ready: you are not yet"
      : one.learned
        ? "Not ready yet"
        : "Not practised yet";
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <div class="flex flex-wrap items-baseline justify-between gap-x-6">
      <h1>Practise grading</h1>
      <RouterLink class="quiet inline-flex items-center" :to="{ name: 'together', params: { id } }"
        >Grade together before a round</RouterLink
      >
    </div>
    <p class="mt-1 max-w-2xl">
      {{ data?.size ?? 12 }} things, one after the other; the truth is told when all are graded. Nothing of it
      counts in the trial.
    </p>
    <ProblemText class="mt-2" :says="other" />
    <article
      v-for="one in shown"
      :key="one.outcome.key"
      class="mt-7 border-t-2 border-ink pt-3"
      :aria-label="one.outcome.name"
    >
      <div class="flex flex-wrap items-start justify-between gap-x-6 gap-y-2">
        <div>
          <h2>{{ one.outcome.name }}</h2>
          <p :class="one.asked && !one.ready_until ? 'font-bold' : 'text-soft'">{{ standing(one) }}</p>
        </div>
        <button
          v-if="one.kind"
          type="button"
          class="press"
          :class="{ 'press-main': one.asked && !one.ready_until }"
          :disabled="busy"
          @click="begin(one.outcome.key)"
        >
          {{ one.going ? "Go on with the set" : one.learned ? "Another set" : "Grade a set" }}
        </button>
      </div>
      <p v-if="one.kind" class="mt-1 text-soft">{{ HOW[one.kind] }}</p>
      <p v-else class="mt-1 max-w-2xl text-soft">
        Give at least two of its levels a photo of what they mean; then it can be practised.
        <RouterLink v-if="course.may_lead" :to="{ name: 'photos', params: { id } }">Photos</RouterLink>
      </p>
      <LearnedView v-if="one.learned" class="mt-3" :learned="one.learned" :scale="one.outcome.scale" />
      <template v-if="one.people.some((each) => each.sets)">
        <p class="mt-4 font-bold">Who scores</p>
        <WideTable
          ><table class="figures max-w-xl">
            <thead>
              <tr>
                <th scope="col">Scorer</th>
                <th scope="col" class="number">Sets</th>
                <th scope="col">Ready</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="each in one.people" :key="each.name">
                <th scope="row">{{ each.name }}</th>
                <td class="number">{{ each.sets }}</td>
                <td>{{ each.until ? `until ${day(each.until, course.zone)}` : "no" }}</td>
              </tr>
            </tbody>
          </table></WideTable
        >
      </template>
      <ul v-if="one.anchors.length" class="mt-3">
        <li v-for="each in one.anchors" :key="each.low" class="border-l-4 border-ink py-1 pl-3">
          {{ reading(each.low, one.outcome.scale) }} and {{ reading(each.high, one.outcome.scale) }} are taken
          for each other in {{ each.mixed }} of {{ each.of }} answers{{
            each.people > 1 ? `, by ${each.people} people` : ""
          }}: a photo of each would help.
          <RouterLink :to="{ name: 'photos', params: { id } }">Put one there</RouterLink>
        </li>
      </ul>
    </article>
    <p v-if="measured.length" class="rule mt-7 max-w-2xl pt-3 text-soft">
      Measured, not judged by eye: {{ measured.join(", ") }}.
    </p>
  </section>
</template>
