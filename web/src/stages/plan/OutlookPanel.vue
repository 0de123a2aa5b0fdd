<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The app's judgement beside the plan: what this design can tell, what would help, what is still open. */
import { computed, ref } from "vue";

import AmendBox from "./AmendBox.vue";
import CompareDialog from "./CompareDialog.vue";
import { nameOf, partOf } from "./planParts";
import type { Plan, PlanAtWork } from "./usePlan";
import DialogSheet from "@/parts/DialogSheet.vue";
import { honest } from "@/parts/amounts";
import { moment, span } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";
import { counted, wordFor } from "@/parts/nouns";

const props = defineProps<{ work: PlanAtWork; sealed: Schemas["SealOut"] | null; zone: string }>();
const emit = defineEmits<{ seal: []; amend: [] }>();
const outlook = props.work.outlook;
const how = ref(false);
const comparing = ref(false);
const plan = props.work.plan;
const shares = computed(() => {
  const found = outlook.value?.shares;
  if (!found) return null;
  const right = Math.round(100 * found.right);
  const wrong = Math.round(100 * found.wrong);
  return { right, wrong, none: 100 - right - wrong };
});
const inUnit = (value: number) =>
  sure(outlook.value).unit === "share"
    ? `${honest(100 * value, 2)} points`
    : [honest(value), sure(outlook.value).unit].filter(Boolean).join(" ");
const money = (value: number) => `${sure(plan.value).money}${Math.abs(value).toFixed(2)}`;
/** What a change takes beyond what is planned: so many more samples, so much more money. */
function takes(one: Schemas["Advice"]): string {
  const samples = one.more
    ? `${Math.abs(one.more)} ${one.more > 0 ? "more" : "fewer"} ${wordFor(Math.abs(one.more), props.work.sample.value)}`
    : "";
  const cost =
    one.more && one.more_cost ? `${money(one.more_cost)} ${one.more_cost > 0 ? "more" : "less"}` : "";
  return [samples, cost].filter(Boolean).join(", ");
}
function apply(samples: number): void {
  if (sure(plan.value).layout.kind === "split") sure(plan.value).layout.whole_plots = samples;
  else
    for (const treatment of sure(plan.value).treatments)
      treatment.samples = Math.max(treatment.samples, samples);
}
function take(other: Plan): void {
  Object.assign(sure(plan.value), { treatments: other.treatments, layout: other.layout });
}
const begun = computed(
  () => sure(plan.value).treatments.length > 1 && sure(plan.value).outcomes.some((one) => one.primary),
);
const advised = computed(() => outlook.value?.advice.find((one) => one.samples !== null)?.samples ?? null);
const blind = computed(
  () => props.work.judged.value?.methods.filter((one) => one.standing === "blind") ?? [],
);
</script>

<template>
  <aside
    id="tell"
    class="on-panel bg-panel p-5 text-panel-ink lg:sticky lg:top-0 lg:max-h-dvh lg:min-h-dvh lg:overflow-y-auto lg:p-6"
    aria-label="What this design can tell"
    :aria-busy="work.asking.value"
  >
    <h2 class="text-[1.05rem]">What this design can tell</h2>
    <template v-if="outlook && shares">
      <p class="mt-2 text-[1.45rem] leading-tight font-bold" aria-live="polite">{{ outlook.headline }}</p>
      <p class="mt-3 text-panel-soft">
        If one truly is {{ inUnit(outlook.lead) }} better on {{ outlook.outcome
        }}<template v-if="outlook.unit !== 'share'"
          >, and those treated alike spread by {{ inUnit(outlook.spread) }}</template
        >, out of 100 such trials
      </p>
      <div
        class="mt-2 flex h-9 font-bold"
        role="img"
        :aria-label="`${shares.right} name it, ${shares.none} cannot tell, ${shares.wrong} name another`"
      >
        <span
          class="grid min-w-9 place-items-center bg-panel-ink text-panel"
          :style="{ width: `${shares.right}%` }"
          >{{ shares.right }}</span
        >
        <span class="hatched grid min-w-9 place-items-center" :style="{ width: `${shares.none}%` }">{{
          shares.none
        }}</span>
        <span
          class="grid min-w-9 place-items-center border-2 border-panel-ink"
          :style="{ width: `${shares.wrong}%` }"
          >{{ shares.wrong }}</span
        >
      </div>
      <p class="mt-1 flex justify-between text-[0.9rem]">
        <span>name it</span><span>cannot tell</span><span>name another</span>
      </p>
      <p v-if="outlook.assumed.length" class="mt-2 text-[0.92rem] text-panel-soft">
        {{
          outlook.assumed.includes("lead") && outlook.assumed.includes("spread")
            ? "The lead and the spread are"
            : outlook.assumed.includes("lead")
              ? "The lead is"
              : "The spread is"
        }}
        assumed; give your own under <RouterLink :to="{ params: { part: 'outcomes' } }">Outcomes</RouterLink>.
      </p>
      <dl class="mt-3 grid gap-1.5">
        <div class="fact">
          <dt>Smallest p it can reach</dt>
          <dd>{{ honest(outlook.smallest_p, 2) }}</dd>
        </div>
        <div class="fact">
          <dt>Lead found 8 times in 10</dt>
          <dd v-if="!outlook.whole" aria-busy="true">…</dd>
          <dd v-else>{{ outlook.found_8_in_10 === null ? "none" : inUnit(outlook.found_8_in_10) }}</dd>
        </div>
        <div class="fact">
          <dt class="whitespace-nowrap">In all</dt>
          <dd>
            {{ counted(outlook.samples, work.sample.value)
            }}{{ outlook.cost === null ? "" : `, ${money(outlook.cost)}` }}
            <small
              v-if="outlook.cost !== null && outlook.samples && !outlook.unpriced.length"
              class="block font-normal text-panel-soft"
              >{{ money(outlook.cost / outlook.samples) }} for each {{ work.sample.value.one }}</small
            >
            <small
              v-if="outlook.cost !== null && outlook.unpriced.length"
              class="block font-normal text-panel-soft"
              >without {{ outlook.unpriced.join(", ") }}, of which no price is known</small
            >
          </dd>
        </div>
        <div v-if="outlook.minutes" class="fact">
          <dt>Scoring, for one person</dt>
          <dd>about {{ span(60_000 * outlook.minutes) }}</dd>
        </div>
      </dl>
      <p v-if="outlook.alone !== null" class="mt-3">
        With {{ outlook.outcome }} as the only primary outcome it would be named
        {{ Math.round(100 * outlook.alone) }} times in 100.
      </p>
      <p v-if="outlook.rare" class="mt-3">{{ outlook.rare }}</p>
      <p v-for="one in blind" :key="one.outcome" class="mt-3 border-l-4 border-panel-ink pl-3">
        {{ one.says }}
      </p>
      <p v-if="!outlook.whole && !sealed && shares.right < 80" class="mt-4 text-panel-soft">
        What would help is being worked out …
      </p>
      <template v-else-if="outlook.advice.length && !sealed">
        <h3 class="mt-4 font-bold">What would help</h3>
        <ul class="mt-1 grid gap-1.5">
          <li v-for="one in outlook.advice" :key="one.says" class="bg-panel-raised px-4 py-2.5">
            <b>{{ one.says }}</b><span class="text-panel-soft">{{
              takes(one) ? `, ${takes(one)}` : ""
            }}</span>
            <span class="block"
              >{{
                one.kind === "longer"
                  ? "then it is named 80 times in 100."
                  : `names it ${Math.round(100 * one.right)} times in 100.`
              }}
              <button
                v-if="one.samples !== null && work.editable.value"
                type="button"
                class="quiet -my-2 font-bold"
                @click="apply(one.samples!)"
              >
                Take that
              </button>
            </span>
          </li>
        </ul>
      </template>
      <p v-else-if="!sealed && shares.right < 80" class="mt-4">
        Even 60 of each would not do: look for a larger difference, or a scale with less spread.
      </p>
      <div class="mt-4 flex flex-wrap gap-2">
        <button type="button" class="press press-small grow" @click="how = true">
          How is this worked out?
        </button>
        <button
          v-if="work.editable.value && !work.amending.value"
          type="button"
          class="press press-small grow"
          @click="comparing = true"
        >
          Compare designs
        </button>
      </div>
    </template>
    <template v-else-if="plan?.agreement && work.judged.value?.foretold.length">
      <p
        v-for="(one, i) in work.judged.value.foretold"
        :key="one"
        class="mt-3 leading-snug"
        :class="{ 'text-[1.2rem]': !i }"
      >
        {{ one }}
      </p>
    </template>
    <p v-else-if="work.judged.value" class="mt-3 text-[1.2rem] leading-snug">
      {{
        begun
          ? "Something in the plan cannot be laid out or read yet. Once it is mended, what the design can tell stands here."
          : "Name two treatments and one thing to look at, and what the design can tell stands here."
      }}
    </p>

    <div v-if="sealed" class="mt-5 border-t-2 border-panel-ink pt-4">
      <p>
        <b>Sealed</b> {{ moment(sealed.at, zone) }} by {{ sealed.by }}.
        {{
          work.saved.value?.may_amend
            ? "A change from here on is an amendment, told with the verdict."
            : "Nothing in this plan changes any more."
        }}
      </p>
      <p class="code mt-2 text-[0.82rem] font-normal break-all">{{ sealed.seal }}</p>
      <AmendBox :work="work" :zone="zone" />
    </div>
    <div v-else-if="work.saved.value?.may_edit" class="mt-5 border-t-2 border-panel-ink pt-4">
      <template v-if="work.problems.value.length">
        <h3 class="font-bold">
          {{ work.problems.value.length === 1 ? "One thing" : `${work.problems.value.length} things` }} before
          it can be sealed
        </h3>
        <ul class="mt-2 grid gap-1.5" aria-label="Before it can be sealed">
          <li v-for="one in work.problems.value.slice(0, 5)" :key="one.at + one.says">
            <RouterLink class="font-bold" :to="{ params: { part: partOf(one.at).key } }">{{
              nameOf(partOf(one.at), plan ?? {})
            }}</RouterLink>: {{ one.says }}
          </li>
          <li v-if="work.problems.value.length > 5" class="text-panel-soft">
            and {{ work.problems.value.length - 5 }} more
          </li>
        </ul>
      </template>
      <button type="button" class="press press-main mt-4 w-full" @click="emit('seal')">Seal the plan</button>
    </div>
    <CompareDialog
      v-if="comparing"
      :plan="plan!"
      :sample="work.sample.value"
      :advised="advised"
      @take="take"
      @close="comparing = false"
    />
    <DialogSheet :open="how" title="How this is worked out" @close="how = false">
      <ol class="mt-4 grid list-decimal gap-3 pl-5">
        <li v-for="step in outlook?.steps ?? []" :key="step">{{ step }}</li>
      </ol>
      <button class="press press-main mt-6" @click="how = false">Close</button>
    </DialogSheet>
  </aside>
</template>

<style scoped>
.hatched {
  background: repeating-linear-gradient(135deg, #41544a 0 6px, #33453b 6px 12px);
}
.fact {
  display: flex;
  justify-content: space-between;
  gap: 1rem;
  border-top: 1px solid var(--color-panel-raised);
  padding-top: 0.4rem;
}
.fact dd {
  white-space: nowrap;
  font-weight: 700;
  text-align: right;
}
.fact small {
  white-space: normal;
}
</style>
