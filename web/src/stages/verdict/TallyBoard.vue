<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The tally over outcomes: what each is worth, with weights that anybody may change, and how steady the
 * order
 * is.
 */
import { computed, reactive, ref } from "vue";

import LetterChip from "./LetterChip.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { honest } from "@/parts/amounts";
import { problemsOf } from "@/shell/api/problems";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ id: string; verdict: Schemas["VerdictOut"]; money: string }>();
const tally = ref(sure(props.verdict.tally));
const says = ref("");
const MOST = 5;
/** Weights as strokes, 0 to 5, the heaviest of the plan's as 3. */
const heaviest = Math.max(...tally.value.weights);
const strokes = reactive<Record<string, number>>(
  Object.fromEntries(
    tally.value.outcomes.map((key, i) => [key, Math.round((3 * sure(tally.value.weights[i])) / heaviest)]),
  ),
);
const nameOf = (key: string) => props.verdict.outcomes.find((one) => one.key === key)?.name ?? key;
let asked = 0;
async function weigh(key: string, by: number): Promise<void> {
  strokes[key] = Math.min(MOST, Math.max(0, sure(strokes[key]) + by));
  if (!Object.values(strokes).some(Boolean)) {
    says.value = "At least one outcome has to weigh something.";
    return;
  }
  says.value = "";
  const mine = (asked += 1);
  try {
    const { tally: found } = await answer(
      api.POST("/api/trials/{trial_id}/tally", {
        params: { path: { trial_id: props.id } },
        body: { weights: { ...strokes } },
      }),
    );
    if (found && mine === asked) tally.value = found;
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  }
}
const hueOf = (name: string) => props.verdict.treatments.findIndex((one) => one.name === name) % 8;
const percent = (share: number | null) => (share === null ? "–" : `${Math.round(100 * share)} %`);
const price = (value: number) =>
  `${props.money}${value > 0 && value < 0.0995 ? honest(value, 2) : value.toFixed(2)}`;
const priced = computed(() => tally.value.rows.some((one) => one.cost !== null));
</script>

<template>
  <section aria-label="Tally over outcomes">
    <p class="mt-1 max-w-3xl">
      Each sample’s number becomes a worth between 0 and 1, from the worst to the best it could be. What
      weighs how much is yours to say; the claim above stays as it is.
    </p>
    <ul v-if="tally.outcomes.length > 1" class="mt-3 grid max-w-2xl gap-1">
      <li
        v-for="key in tally.outcomes"
        :key="key"
        class="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 border-b border-line"
      >
        <span>{{ nameOf(key) }}</span>
        <span class="flex items-center gap-1" role="group" :aria-label="`Weight of ${nameOf(key)}`">
          <button
            type="button"
            class="grid h-11 w-11 place-items-center text-[1.5rem]"
            :disabled="strokes[key] === 0"
            :aria-label="`${nameOf(key)} weighs less`"
            @click="weigh(key, -1)"
          >
            −
          </button>
          <span
            class="flex w-24 items-center gap-1.5"
            :aria-label="`weighs ${strokes[key]} of ${MOST}`"
            role="img"
            ><i
              v-for="n in MOST"
              :key="n"
              class="h-6 w-1.5"
              :class="n <= strokes[key]! ? 'bg-ink' : 'bg-line'"
          /></span>
          <button
            type="button"
            class="grid h-11 w-11 place-items-center text-[1.5rem]"
            :disabled="strokes[key] === MOST"
            :aria-label="`${nameOf(key)} weighs more`"
            @click="weigh(key, 1)"
          >
            +
          </button>
        </span>
      </li>
    </ul>
    <ProblemText class="mt-1" :says="says" />
    <WideTable label="Worth of each treatment" class="mt-4">
      <table class="figures">
        <thead>
          <tr>
            <th scope="col">Treatment</th>
            <th class="number" scope="col">Worth</th>
            <th scope="col"><span class="sr-only">as a bar</span></th>
            <th v-for="key in tally.outcomes" :key="key" class="number" scope="col">{{ nameOf(key) }}</th>
            <th class="number" scope="col">First place</th>
            <th v-if="priced" class="number" scope="col">A sample</th>
            <th v-if="priced" class="number" scope="col">A good one</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in tally.rows" :key="row.treatment">
            <th scope="row" class="whitespace-nowrap">
              <LetterChip :treatments="verdict.treatments" :name="row.treatment" /> {{ row.treatment
              }}<span v-if="row.beaten_by.length" class="block text-[0.9rem] font-normal text-soft"
                >never better than {{ row.beaten_by[0] }}</span
              >
            </th>
            <td class="number font-bold">{{ row.total === null ? "–" : row.total.toFixed(2) }}</td>
            <td class="w-40">
              <span
                class="block h-4 bg-(--hue)"
                :data-hue="hueOf(row.treatment)"
                :style="{ width: `${100 * (row.total ?? 0)}%` }"
              />
            </td>
            <td v-for="(worth, i) in row.worth" :key="tally.outcomes[i]" class="number">
              {{ worth === null ? "–" : worth.toFixed(2) }}
            </td>
            <td class="number">{{ percent(row.first) }}</td>
            <td v-if="priced" class="number">
              {{ row.cost === null ? "–" : price(row.cost) }}
            </td>
            <td v-if="priced" class="number">
              {{ row.per_good === null ? "–" : price(row.per_good) }}
            </td>
          </tr>
        </tbody>
      </table>
    </WideTable>
    <p class="mt-1 text-soft">
      First place: how often it would come first if the samples (whole places, where each holds one of a kind)
      were drawn again and the weights shaken a little; from one sample of each nothing is drawn.<template
        v-if="priced"
      >
        A good one: its first outcome came out at least half way up.</template
      >
    </p>
  </section>
</template>
