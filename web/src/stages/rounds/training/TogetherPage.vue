<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** Scorers together before a round: the same five samples, each graded alone, then side by side, and what was
 * agreed on.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref, useId } from "vue";

import ScorePads from "../ScorePads.vue";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { honest, reading, unitOf, type Scale } from "@/parts/amounts";
import { moment } from "@/parts/moments";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { queryClient, trialChanged } from "@/shell/query";
import WideTable from "@/parts/WideTable.vue";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const key = keys.together(props.id);
const path = { trial_id: props.id };
const { data, error } = useQuery({
  queryKey: key,
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/together", { params: { path } })),
  refetchInterval: 5_000,
});
const going = computed(() => data.value?.calibrations.find((one) => !one.agreed));
const before = computed(() => (data.value?.calibrations ?? []).filter((one) => one.agreed));
const next = computed(() =>
  going.value?.shown ? undefined : going.value?.samples.find((one) => one.mine === null),
);
const checkpoints = computed(() => props.course.checkpoints);
const checkpoint = ref("");
const outcome = ref("");
const text = ref("");
const here = computed(
  () =>
    checkpoint.value ||
    (
      checkpoints.value.find((stop) => ["due", "late"].includes(stop.standing)) ??
      checkpoints.value.find((stop) => stop.standing === "upcoming") ??
      checkpoints.value[0]
    )?.key ||
    "",
);
const judged = computed(() =>
  (data.value?.outcomes ?? []).filter((one) => one.checkpoints.includes(here.value)),
);
const what = computed(
  () =>
    outcome.value ||
    (judged.value.find((one) => one.scale.kind !== "measurement") ?? judged.value[0])?.key ||
    "",
);
const { busy, says, other, through } = useAct(["text", "outcome", "checkpoint"]);
const again = () => queryClient.invalidateQueries({ queryKey: key });
const begin = () =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/together", {
        params: { path },
        body: { checkpoint: here.value, outcome: what.value },
      }),
    );
    await again();
  });
const give = (given: unknown) => {
  const sample = next.value;
  if (typeof given !== "number" || !sample || busy.value) return;
  void through(async () => {
    await answer(
      api.POST("/api/together/{calibration_id}/grades", {
        params: { path: { calibration_id: sure(going.value).id } },
        body: { sample: sample.id, value: given },
      }),
    );
    await again();
  });
};
const show = () =>
  through(async () => {
    await answer(
      api.POST("/api/together/{calibration_id}/show", {
        params: { path: { calibration_id: sure(going.value).id } },
      }),
    );
    await again();
  });
const agree = () =>
  through(async () => {
    await answer(
      api.POST("/api/together/{calibration_id}/agreed", {
        params: { path: { calibration_id: sure(going.value).id } },
        body: { text: text.value },
      }),
    );
    text.value = "";
    await again();
    await trialChanged(props.id, ["log"]);
  });
const scorers = (one: Schemas["CalibrationOut"]) => [...new Set(one.grades.map((grade) => grade.scorer))];
const gave = (one: Schemas["CalibrationOut"], scorer: string, code: string) =>
  one.grades.find((grade) => grade.scorer === scorer && grade.code === code)?.value;
const told = (value: number | undefined, one: Schemas["CalibrationOut"]) =>
  value === undefined
    ? ""
    : ["grade", "shade"].includes(one.outcome.scale.kind)
      ? honest(value, 3)
      : reading(value, one.outcome.scale);
const inUnit = (scale: Scale) =>
  scale.kind === "shade" ? ", steps" : unitOf(scale) ? `, ${unitOf(scale)}` : "";
const may = computed(() => ["sealed", "running"].includes(props.course.state));
const textSays = useId();
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <h1>Grade together before a round</h1>
    <p class="mt-1 max-w-2xl">
      Each of you grades the same five samples without seeing the others’ grades. Then look at them together,
      talk over where you differ, and write down what you agree on. None of it counts in the verdict.
    </p>
    <ProblemText class="mt-2" :says="other" />
    <template v-if="going">
      <section class="mt-5 border-t-2 border-ink pt-3" aria-label="Under way">
        <h2>{{ going.outcome.name }}, before {{ going.look }}</h2>
        <div v-if="next" class="mt-3 max-w-md">
          <p class="code text-[3rem] leading-tight">{{ next.code }}</p>
          <p class="text-soft">
            {{ going.samples.filter((one) => one.mine !== null).length + 1 }} of {{ going.samples.length }}
          </p>
          <ScorePads :key="next.id" class="mt-2" :outcome="going.outcome" :value="null" @give="give" />
        </div>
        <template v-else-if="!going.shown">
          <p class="mt-2">
            You have graded all {{ going.samples.length }}. Finished: {{ going.finished.join(", ") }}.
          </p>
          <button
            type="button"
            class="press press-main mt-3"
            :disabled="busy || going.finished.length < 2"
            @click="show"
          >
            Look at them together
          </button>
          <p v-if="going.finished.length < 2" class="mt-2 text-soft">
            At least one more scorer has to grade them first, on a device of their own.
          </p>
        </template>
      </section>
    </template>
    <template v-for="one in [...(going?.shown ? [going] : []), ...before]" :key="one.id">
      <section
        class="mt-6 border-t-2 border-ink pt-3"
        :aria-label="`${one.outcome.name}, ${one.look}, ${moment(one.begun_at, course.zone)}`"
      >
        <p v-if="one.agreed" class="text-soft">
          {{ one.outcome.name }}, before {{ one.look }}; {{ moment(one.begun_at, course.zone) }}
        </p>
        <h2 v-if="one.told">{{ one.told.says }}</h2>
        <WideTable :label="`What each of you gave, ${moment(one.begun_at, course.zone)}`" class="mt-2">
          <table class="figures max-w-2xl">
            <thead>
              <tr>
                <th scope="col">Sample</th>
                <th v-for="scorer in scorers(one)" :key="scorer" scope="col" class="number">{{ scorer }}</th>
                <th scope="col" class="number">Apart{{ inUnit(one.outcome.scale) }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="sample in one.samples" :key="sample.id">
                <th scope="row" class="code">{{ sample.code }}</th>
                <td v-for="scorer in scorers(one)" :key="scorer" class="number">
                  {{ told(gave(one, scorer, sample.code), one) }}
                </td>
                <td class="number">
                  {{
                    one.told?.apart[sample.code] === undefined ? "" : honest(one.told.apart[sample.code]!, 2)
                  }}
                </td>
              </tr>
            </tbody>
          </table>
        </WideTable>
        <p v-if="one.agreed" class="mt-3 max-w-2xl border-l-4 border-ink pl-3">{{ one.agreed }}</p>
        <form v-else class="mt-4 grid max-w-2xl gap-3" @submit.prevent="agree">
          <label class="block"
            ><span class="mb-1 block font-bold">What did you agree on?</span
            ><textarea
              v-model="text"
              class="field"
              rows="2"
              :aria-invalid="says('text') ? 'true' : undefined"
              :aria-describedby="textSays"
            /></label
          ><ProblemText :id="textSays" :says="says('text')" /><button
            class="press press-main justify-self-start"
            :disabled="busy"
          >
            Write it into the log
          </button>
        </form>
      </section>
    </template>
    <form
      v-if="data && may && !going"
      class="mt-7 grid max-w-2xl items-end gap-3 border-t-2 border-ink pt-3 sm:grid-cols-2"
      @submit.prevent="begin"
    >
      <label class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">Before which look</span
        ><select
          class="field"
          :value="here"
          @change="checkpoint = ($event.target as HTMLSelectElement).value"
        >
          <option v-for="stop in checkpoints" :key="stop.key" :value="stop.key">{{ stop.name }}</option>
        </select></label
      >
      <label class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">What</span
        ><select class="field" :value="what" @change="outcome = ($event.target as HTMLSelectElement).value">
          <option v-for="one in data.outcomes" :key="one.key" :value="one.key">{{ one.name }}</option>
        </select></label
      >
      <ProblemText :says="says('outcome') || says('checkpoint')" />
      <button class="press press-main justify-self-start" :disabled="busy || !what || !here">
        Draw five samples
      </button>
    </form>
  </section>
</template>
