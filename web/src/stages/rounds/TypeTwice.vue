<script setup lang="ts">
import { sure } from "@/parts/sure";
/** A paper sheet typed a second time: what differs from the first time is shown at once, and put right or
 * left.
 */
import { computed, nextTick, reactive, ref } from "vue";

import { givenIn } from "./given";
import { sameGiven, shownGiven } from "./twice";
import { saidOf, type Given, type Outcome, type RoundAtWork, type RoundSample } from "./useRound";
import ProblemText from "@/parts/ProblemText.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { useAct } from "@/shell/act";
import { rightNow } from "@/shell/offline/clock";
import { keep, laneOf } from "@/shell/outbox";
import { trialChanged, useMe } from "@/shell/query";

const props = defineProps<{ id: string; work: RoundAtWork }>();
const emit = defineEmits<{ close: [] }>();
const { data: me } = useMe();
const round = computed(() => sure(props.work.round.value));
const onPaper = (sample: RoundSample, outcome: Outcome) => {
  const cell = props.work.cellOf(sample, outcome);
  return cell?.kind === "value" && cell.source === "paper";
};
/** Only what was typed from paper the first time is typed again. */
const rows = computed(() =>
  round.value.samples.filter((sample) => round.value.outcomes.some((outcome) => onPaper(sample, outcome))),
);
interface Second {
  text: string;
  given?: Given;
  says: string;
  settled: "" | "same" | "first" | "second";
}
const seconds = reactive(new Map<string, Second>());
const at = (sample: RoundSample, outcome: Outcome) => `${sample.id}/${outcome.key}`;
const table = ref<HTMLElement>();

function enter(sample: RoundSample, outcome: Outcome, text: string): void {
  const first = props.work.cellOf(sample, outcome);
  if (!text.trim() || !first) {
    seconds.delete(at(sample, outcome));
    return;
  }
  const { given, says } = givenIn(text, outcome.scale);
  if (given === undefined) seconds.set(at(sample, outcome), { text, says, settled: "" });
  else
    seconds.set(at(sample, outcome), {
      text,
      given,
      says: "",
      settled: sameGiven(first, given) ? "same" : "",
    });
}
async function next(event: KeyboardEvent): Promise<void> {
  event.preventDefault();
  await nextTick();
  const fields = [...(table.value?.querySelectorAll<HTMLInputElement>("input") ?? [])];
  fields[fields.indexOf(event.target as HTMLInputElement) + 1]?.focus();
}
const settle = (sample: RoundSample, outcome: Outcome, by: "first" | "second") => {
  const second = sure(seconds.get(at(sample, outcome)));
  second.settled = by;
  if (by === "second")
    void props.work.write(
      sample,
      outcome,
      saidOf(sure(second.given), { source: "paper", reason: "typed twice, and this one is right" }),
    );
};
const all = computed(() => [...seconds.values()].filter((one) => one.given !== undefined));
const open = computed(() => all.value.filter((one) => !one.settled).length);
const differed = computed(() => all.value.filter((one) => one.settled !== "same").length);
const mended = computed(() => all.value.filter((one) => one.settled === "second").length);
const total = computed(() =>
  rows.value.reduce(
    (sum, sample) => sum + round.value.outcomes.filter((outcome) => onPaper(sample, outcome)).length,
    0,
  ),
);
const { busy, other, through } = useAct([]);
const done = () =>
  through(async () => {
    const text = `The sheet of ${round.value.name} was typed a second time: of ${all.value.length} scores ${differed.value} differed, and ${mended.value} ${mended.value === 1 ? "was" : "were"} put right.`;
    const [id, person] = [crypto.randomUUID(), me.value?.id ?? 0];
    await keep({
      id,
      lane: laneOf(props.id, person),
      trial: props.id,
      person,
      given_at: rightNow().toISOString(),
      called: "A note",
      insists: true,
      kind: "note",
      body: { id, text, working: "" },
    });
    await trialChanged(props.id, ["log"]);
    emit("close");
  });
</script>

<template>
  <section class="sheet m-4 p-5 lg:mx-8">
    <h2>Type the sheet a second time</h2>
    <p class="mt-1 text-soft">
      What was typed the first time is hidden. Where the two differ, look at the paper and say which is right.
      Enter goes on.
    </p>
    <table ref="table" class="figures mt-3">
      <thead>
        <tr>
          <th scope="col">Sample</th>
          <th v-for="outcome in round.outcomes" :key="outcome.key" scope="col">{{ outcome.name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="sample in rows" :key="sample.id">
          <th scope="row" class="w-36"><SampleTag :code="sample.code" /></th>
          <td v-for="outcome in round.outcomes" :key="outcome.key">
            <template v-if="onPaper(sample, outcome)">
              <input
                class="field max-w-40"
                :aria-label="`${outcome.name} of ${sample.code}, again`"
                autocomplete="off"
                inputmode="decimal"
                :value="seconds.get(at(sample, outcome))?.text ?? ''"
                @change="enter(sample, outcome, ($event.target as HTMLInputElement).value)"
                @keydown.enter="next"
              />
              <p v-if="seconds.get(at(sample, outcome))?.says" role="alert" class="mt-1 font-bold">
                {{ seconds.get(at(sample, outcome))!.says }}
              </p>
              <p
                v-else-if="
                  seconds.get(at(sample, outcome))?.given !== undefined &&
                  !seconds.get(at(sample, outcome))!.settled
                "
                role="alert"
                class="mt-1 border-l-4 border-ink pl-2"
              >
                <b
                  >First {{ shownGiven(work.cellOf(sample, outcome)!, outcome.scale) }}, now
                  {{ seconds.get(at(sample, outcome))!.text }}.</b
                >
                <span class="flex flex-wrap gap-2"
                  ><button type="button" class="quiet" @click="settle(sample, outcome, 'first')">
                    The first is right</button
                  ><button type="button" class="quiet" @click="settle(sample, outcome, 'second')">
                    This one is right
                  </button></span
                >
              </p>
              <p v-else-if="seconds.get(at(sample, outcome))" class="text-[0.9rem] text-soft">
                {{
                  { same: "same", first: "the first stays", second: "put right", "": "" }[
                    seconds.get(at(sample, outcome))!.settled
                  ]
                }}
              </p>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="mt-3" role="status">
      {{ all.length }} of {{ total }} typed again; {{ differed }} differed{{
        open ? `, ${open} to be settled` : ""
      }}.
    </p>
    <ProblemText :says="other" />
    <p class="mt-2 flex flex-wrap gap-3">
      <button
        type="button"
        class="press press-main"
        :disabled="busy || !all.length || open > 0"
        @click="done"
      >
        Note it in the log</button
      ><button type="button" class="press" @click="emit('close')">Leave it</button>
    </p>
  </section>
</template>
