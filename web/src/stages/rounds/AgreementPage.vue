<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** Agreement: between scorers, within one, over the rounds; and what to do about it. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import AgreementDots from "./AgreementDots.vue";
import NothingHere from "@/parts/NothingHere.vue";
import { honest } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import WideTable from "@/parts/WideTable.vue";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data, error } = useQuery({
  queryKey: keys.agreement(computed(() => props.id)),
  queryFn: () =>
    answer(api.GET("/api/trials/{trial_id}/agreement", { params: { path: { trial_id: props.id } } })),
});
const outcomes = computed(() => data.value?.outcomes ?? []);
const paired = computed(() => outcomes.value.filter((one) => one.found.pairs.length));
const sentence = computed(() => {
  if (!outcomes.value.length) return "Nobody has scored anything yet.";
  if (!paired.value.length) return "Only one person has scored each sample so far.";
  const worst = sure(
    paired.value
      .flatMap((one) => one.found.pairs.map((pair) => ({ name: one.name, pair })))
      .sort((a, b) => (a.pair.agreement ?? 1) - (b.pair.agreement ?? 1))[0],
  );
  return `${worst.pair.first} and ${worst.pair.second} see ${worst.name.toLowerCase()} ${worst.pair.word || "without any difference to compare"}.`;
});
const signed = (value: number, unit: string) =>
  `${value > 0 ? "+" : value < 0 ? "−" : ""}${honest(Math.abs(value), 2)} ${unit}`.trim();
const MEASURES = { kappa: "weighted κ", icc: "ICC(2,1)" };
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <h1>{{ data ? sentence : "Agreement" }}</h1>
    <div v-for="one in outcomes" :key="one.outcome" class="mt-7 border-t-2 border-ink pt-3">
      <h2>{{ one.name }}</h2>
      <ul class="mt-1 max-w-3xl">
        <li v-for="advice in one.found.advice" :key="advice" class="border-l-4 border-ink py-1 pl-3">
          {{ advice }}
        </li>
      </ul>
      <div class="mt-3 grid gap-x-8 gap-y-4" :class="{ 'xl:grid-cols-2': one.found.pairs.length > 1 }">
        <figure
          v-for="(pair, i) in one.found.pairs"
          :key="pair.first + pair.second"
          class="grid grid-cols-[minmax(0,15rem)_minmax(0,1fr)] items-center gap-4"
        >
          <AgreementDots
            :cloud="sure(one.clouds[i])"
            :first="pair.first"
            :second="pair.second"
            :unit="one.unit"
          />
          <figcaption>
            <b>{{ pair.first }} and {{ pair.second }}</b>
            <p>
              {{ MEASURES[pair.measure] }}
              <b>{{ pair.agreement === null ? "cannot be told" : honest(pair.agreement, 2) }}</b><template
                v-if="pair.word"
                >, {{ pair.word }}</template
              >
            </p>
            <p>{{ pair.first }} gives {{ signed(pair.difference, one.unit) }} on average</p>
            <p class="text-soft">
              {{ pair.shared.toLocaleString("en") }} values in common<template v-if="one.clouds[i]?.square"
                >, gathered into squares of {{ honest(sure(one.clouds[i]?.square), 2) }}
                {{ one.unit }}</template
              >
            </p>
          </figcaption>
        </figure>
      </div>
      <div
        v-if="one.found.alone.some((each) => each.within || (each.drift && one.found.pairs.length))"
        class="mt-3 overflow-x-auto"
        tabindex="0"
        role="region"
        :aria-label="`Each scorer on ${one.name}`"
      >
        <WideTable
          ><table class="figures max-w-3xl">
            <thead>
              <tr>
                <th scope="col">Scorer</th>
                <th scope="col" class="number">Against the others</th>
                <th scope="col" class="number">Moves, a round</th>
                <th scope="col" class="number">p</th>
                <th scope="col" class="number">Same when read again</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="each in one.found.alone" :key="each.scorer">
                <th scope="row">{{ each.scorer }}</th>
                <td class="number">{{ each.drift ? signed(each.drift.leaning, one.unit) : "" }}</td>
                <td class="number">{{ each.drift ? signed(each.drift.slope, one.unit) : "" }}</td>
                <td class="number">
                  {{ each.drift?.p === null || !each.drift ? "too few rounds" : honest(each.drift.p, 2) }}
                </td>
                <td class="number">
                  {{
                    each.within
                      ? `${Math.round(each.within.same * each.within.pairs)} of ${each.within.pairs}, ${each.within.blind ? "under second codes" : "read again"}`
                      : ""
                  }}
                </td>
              </tr>
            </tbody>
          </table></WideTable
        >
      </div>
      <p v-if="one.found.w !== null" class="mt-2 text-soft">
        All of them together: Kendall’s W {{ honest(one.found.w, 2) }} (1: the same order throughout).
      </p>
    </div>
  </section>
</template>
