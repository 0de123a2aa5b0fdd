<script setup lang="ts">
import { sure } from "@/parts/sure";
/** When it is looked at: rules in words, the looks one by one, on the calendar, at what, and when it ends. */
import { computed, toRaw } from "vue";

import CalendarLine from "./CalendarLine.vue";
import CheckpointRow from "./CheckpointRow.vue";
import LookGrid from "./LookGrid.vue";
import PlanRow from "./PlanRow.vue";
import PlanText from "./PlanText.vue";
import RuleField from "./RuleField.vue";
import { checkpoint, newKey } from "./fresh";
import type { Plan, PlanAtWork } from "./usePlan";
import { windowsOf } from "./windows";
import DurationField from "@/parts/DurationField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";

const plan = defineModel<Plan>({ required: true });
defineProps<{ work: PlanAtWork }>();
const USUAL_SETTINGS = ["temperature", "hold", "duration"];
const order = computed(() =>
  plan.value.checkpoints
    .map((one, i) => ({ one, i }))
    .sort(
      (a, b) => Number(b.one.baseline) - Number(a.one.baseline) || a.one.offset - b.one.offset || a.i - b.i,
    ),
);
/** Looks that may be interim ones: after the start, before the last. */
const mayBeInterim = computed(() => {
  const end = Math.max(...plan.value.checkpoints.filter((one) => !one.unplanned).map((one) => one.offset));
  return order.value
    .map(({ one }) => one)
    .filter((one) => !one.baseline && !one.unplanned && one.offset < end);
});
const level = computed(() => (100 * plan.value.alpha) / (1 + plan.value.interim.length));
function turnInterim(key: string): void {
  plan.value.interim = plan.value.interim.includes(key)
    ? plan.value.interim.filter((one) => one !== key)
    : [...plan.value.interim, key];
}
const hasBaseline = computed(() => plan.value.checkpoints.some((one) => one.baseline));
function addLooks(looks: Schemas["Repeated"][]): void {
  const known = new Set(plan.value.checkpoints.map((one) => `${one.offset}/${one.cycle}`));
  const each = plan.value.cycle_minutes ?? 1440;
  const offsets = looks.map((look) => look.offset ?? sure(look.cycle) * each);
  const windows = windowsOf(offsets);
  looks.forEach((look, i) => {
    if (known.has(`${offsets[i]}/${look.cycle}`)) return;
    const free = look.cycle !== null;
    plan.value.checkpoints.push(
      checkpoint({
        name: look.name,
        offset: offsets[i],
        clock: look.clock,
        cycle: look.cycle,
        before: free ? 0 : sure(windows[i]),
        after: free ? 1440 : sure(windows[i]),
      }),
    );
  });
}
function takeOut(i: number): void {
  const [gone] = plan.value.checkpoints.splice(i, 1);
  plan.value.interim = plan.value.interim.filter((key) => key !== gone?.key);
}
/** A look in two parts: before something is done to the sample, and after. */
function split(i: number): void {
  const one = sure(plan.value.checkpoints[i]);
  one.stage = "before";
  plan.value.checkpoints.splice(i + 1, 0, {
    ...one,
    key: newKey(),
    stage: "after",
    only: structuredClone(toRaw(one.only)),
  });
}
</script>

<template>
  <div>
    <PlanRow title="When you look">
      <RuleField :cycle-word="plan.cycle_word" @take="addLooks" />
      <ul class="mt-4 grid gap-2">
        <CheckpointRow
          v-for="{ one, i } in order"
          :key="one.key"
          v-model="plan.checkpoints[i]!"
          :place="i"
          :cycle-word="plan.cycle_word"
          :plan="plan"
          :work="work"
          @out="takeOut(i)"
          @split="split(i)"
        />
      </ul>
      <div class="mt-3 flex flex-wrap gap-2">
        <button
          v-if="!hasBaseline"
          type="button"
          class="press press-small"
          data-adds
          @click="
            plan.checkpoints.unshift(checkpoint({ name: 'Before the start', offset: 0, baseline: true }))
          "
        >
          Add a baseline
        </button>
        <button
          type="button"
          class="quiet"
          data-adds
          @click="
            plan.checkpoints.push(
              checkpoint({ name: '', offset: (plan.checkpoints.at(-1)?.offset ?? 0) + 1440 }),
            )
          "
        >
          Add a single look
        </button>
      </div>
      <ProblemText :says="work.says('checkpoints')" />
    </PlanRow>
    <PlanRow title="On the calendar">
      <p v-if="plan.begun">
        It began
        <template v-if="plan.begun.on">as told under</template
        ><template v-else>on a day to be told under</template>
        <RouterLink :to="{ params: { part: 'begun' } }">So far</RouterLink>.
      </p>
      <div v-else class="max-w-72">
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">Start of exposure, meant for</span>
          <input
            type="datetime-local"
            class="field"
            :value="plan.starts_on ?? ''"
            @input="plan.starts_on = ($event.target as HTMLInputElement).value || null"
          />
        </label>
        <ProblemText :says="work.says('starts_on')" />
      </div>
      <CalendarLine :plan="plan" :trial="work.trial" />
    </PlanRow>
    <PlanRow
      v-if="plan.outcomes.length && plan.checkpoints.length"
      title="At what"
      hint="which outcomes at which look"
    >
      <LookGrid v-model="plan" />
    </PlanRow>
    <PlanRow title="How blind" hint="fixed with the seal">
      <div class="grid gap-3 sm:grid-cols-2">
        <div>
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft"
              >Brought back in the same round under a second code</span
            >
            <select v-model.number="plan.repeats" class="field">
              <option :value="0">none</option>
              <option :value="0.1">about a tenth of them</option>
              <option :value="0.2">about a fifth of them</option>
              <option v-if="![0, 0.1, 0.2].includes(plan.repeats)" :value="plan.repeats">
                {{ Math.round(plan.repeats * 100) }} in 100
              </option>
            </select> </label
          ><ProblemText :says="work.says('repeats')" />
          <p v-if="plan.repeats" class="mt-1 text-soft">
            It tells how well a scorer agrees with themselves. Somebody who does not score brings them; a
            preparer sees the second codes on the board.
          </p>
        </div>
        <label class="flex min-h-11 items-start gap-3 self-start sm:mt-6"
          ><input v-model="plan.show_previous" type="checkbox" class="mt-0.5 h-6 w-6 flex-none" /><span
            >Show scorers what they gave at the look before<span class="block text-soft"
              >Steadier grades, but not fresh ones: the verdict says so.</span
            ></span
          ></label
        >
      </div>
    </PlanRow>
    <PlanRow title="The end" hint="fixed beforehand">
      <div class="grid gap-3 sm:grid-cols-2">
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">It ends</span>
          <select v-model="plan.ending.kind" class="field">
            <option value="fixed">at the last look</option>
            <option value="levelled">once it has levelled off</option>
            <option value="all">once all have failed</option>
            <option value="half">once half have failed</option>
          </select>
        </label>
        <label v-if="plan.ending.kind !== 'fixed'" class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">judged on</span>
          <select v-model="plan.ending.outcome" class="field">
            <option :value="null">choose an outcome</option>
            <option v-for="one in plan.outcomes" :key="one.key" :value="one.key">
              {{ one.name || "New outcome" }}
            </option>
          </select>
        </label>
      </div>
      <ProblemText :says="work.says('ending.outcome')" />
    </PlanRow>
    <PlanRow title="Stopping early" hint="at interim looks, paid for in certainty">
      <p v-if="!mayBeInterim.length" class="text-soft">
        Only a look between the start and the last one can be an interim look.
      </p>
      <div v-else class="flex flex-wrap gap-2" role="group" aria-label="Interim looks">
        <button
          v-for="one in mayBeInterim"
          :key="one.key"
          type="button"
          class="press press-small"
          :class="{ 'press-main': plan.interim.includes(one.key) }"
          :aria-pressed="plan.interim.includes(one.key)"
          @click="turnInterim(one.key)"
        >
          {{ one.name || "New look" }}
        </button>
      </div>
      <p class="mt-2">
        <template v-if="plan.interim.length"
          >There it may be asked whether the answer is clear already: the app says stop or go on, and nothing
          more. The price: each of these looks and the end is judged at {{ honest(level, 2) }} % instead of
          {{ honest(100 * plan.alpha, 2) }} %, whether it is used or not.</template
        >
        <template v-else
          >None: nobody asks before the end, and the whole {{ honest(100 * plan.alpha, 2) }} % is spent on the
          last look.</template
        >
      </p>
      <ProblemText :says="work.says('interim')" />
    </PlanRow>
    <PlanRow title="Cycles" hint="washes, firings, uses, where looks follow those">
      <div class="grid max-w-xl gap-3 sm:grid-cols-2">
        <PlanText
          v-model="plan.cycle_word"
          at="cycle_word"
          label="One cycle is a"
          :work="work"
          shown
          placeholder="wash, firing, use"
        />
        <DurationField
          v-if="plan.cycle_word"
          :model-value="plan.cycle_minutes ?? 1440"
          label="and takes about"
          @update:model-value="(minutes) => (plan.cycle_minutes = minutes)"
        />
      </div>
      <template v-if="plan.cycle_word">
        <p class="mt-4 mb-2 text-[0.9rem] text-soft">
          Set the same for every {{ plan.cycle_word }}, noted each time, and told where it differs:
        </p>
        <ul class="grid max-w-2xl gap-2">
          <li
            v-for="(one, i) in plan.cycle_settings"
            :key="one.key"
            class="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_44px] items-start gap-2"
          >
            <PlanText
              v-model="one.what"
              :at="`cycle_settings.${i}.what`"
              :label="`Setting ${i + 1} of each ${plan.cycle_word}`"
              placeholder="temperature"
              :work="work"
            />
            <PlanText
              v-model="one.planned"
              :at="`cycle_settings.${i}.planned`"
              :label="`Planned ${one.what || 'setting'}`"
              placeholder="40 °C"
              :work="work"
            />
            <TakeOut :what="one.what || 'this setting'" @out="plan.cycle_settings.splice(i, 1)" />
          </li>
        </ul>
        <div class="mt-2 flex flex-wrap gap-2">
          <button
            v-for="one in USUAL_SETTINGS"
            :key="one"
            type="button"
            class="quiet"
            @click="plan.cycle_settings.push({ key: newKey(), what: one, planned: '' })"
          >
            {{ one }}
          </button>
        </div>
      </template>
    </PlanRow>
  </div>
</template>
