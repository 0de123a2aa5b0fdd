<script setup lang="ts">
/** The app's judgement beside the plan: what this design can tell, what would help, what is still open. */
import { computed, ref } from "vue";

import type { PlanAtWork } from "./usePlan";
import DialogSheet from "@/parts/DialogSheet.vue";
import { honest } from "@/parts/amounts";
import { moment } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ work: PlanAtWork; sealed: Schemas["SealOut"] | null; zone: string }>();
const emit = defineEmits<{ seal: [] }>();
const outlook = props.work.outlook;
const how = ref(false);
const plan = props.work.plan;
const shares = computed(() => {
  const found = outlook.value?.shares;
  if (!found) return null;
  const right = Math.round(100 * found.right);
  const wrong = Math.round(100 * found.wrong);
  return { right, wrong, none: 100 - right - wrong };
});
const inUnit = (value: number) =>
  outlook.value!.unit === "share" ? `${honest(100 * value, 2)} points` : [honest(value), outlook.value!.unit].filter(Boolean).join(" ");
const total = computed(() => plan.value!.treatments.reduce((sum, t) => sum + t.samples, 0) * (plan.value!.layout.kind === "blocks" ? plan.value!.layout.blocks.length : 1));
function apply(samples: number): void {
  for (const treatment of plan.value!.treatments) treatment.samples = Math.max(treatment.samples, samples);
}
const NAMES: Record<string, string> = { title: "Name", question: "Question", treatments: "Treatments", layout: "Places", outcomes: "Looked at", checkpoints: "Looks", compare: "Judged by", alpha: "Judged by", zone: "Time zone" };
const named = (at: string) => NAMES[at.split(".")[0]!] ?? "Plan";
</script>

<template>
  <aside class="on-panel bg-panel p-5 text-panel-ink lg:sticky lg:top-0 lg:max-h-dvh lg:min-h-dvh lg:overflow-y-auto lg:p-7" aria-label="What this design can tell" :aria-busy="work.asking.value">
    <h2 class="text-[1.05rem]">What this design can tell</h2>
    <template v-if="outlook && shares">
      <p class="mt-2 text-[1.55rem] leading-tight font-bold" aria-live="polite">{{ outlook.headline }}</p>
      <p class="mt-4 text-panel-soft">
        If one truly is {{ inUnit(outlook.lead) }} better on {{ outlook.outcome }}<template v-if="outlook.unit !== 'share'">, and those treated alike spread by {{ inUnit(outlook.spread) }}</template>, out of 100 such trials
      </p>
      <div class="mt-2 flex h-9 font-bold" role="img" :aria-label="`${shares.right} name it, ${shares.none} cannot tell, ${shares.wrong} name another`">
        <span class="grid min-w-9 place-items-center bg-panel-ink text-panel" :style="{ width: `${shares.right}%` }">{{ shares.right }}</span>
        <span class="hatched grid min-w-9 place-items-center" :style="{ width: `${shares.none}%` }">{{ shares.none }}</span>
        <span class="grid min-w-9 place-items-center border-2 border-panel-ink" :style="{ width: `${shares.wrong}%` }">{{ shares.wrong }}</span>
      </div>
      <p class="mt-1 flex justify-between text-[0.9rem]"><span>name it</span><span>cannot tell</span><span>name another</span></p>
      <p v-if="outlook.assumed.length" class="mt-3 text-[0.92rem] text-panel-soft">
        {{ outlook.assumed.includes("lead") && outlook.assumed.includes("spread") ? "The lead and the spread are" : outlook.assumed.includes("lead") ? "The lead is" : "The spread is" }}
        assumed; give your own under “Looked at”.
      </p>
      <dl class="mt-4 grid gap-2">
        <div class="flex justify-between gap-4 border-t border-panel-raised pt-2"><dt>Smallest p it can reach</dt><dd class="font-bold">{{ honest(outlook.smallest_p, 2) }}</dd></div>
        <div class="flex justify-between gap-4 border-t border-panel-raised pt-2"><dt>Lead found 8 times in 10</dt><dd class="font-bold">{{ outlook.found_8_in_10 === null ? "none" : inUnit(outlook.found_8_in_10) }}</dd></div>
        <div class="flex justify-between gap-4 border-t border-panel-raised pt-2"><dt>In all</dt><dd class="font-bold">{{ total }} {{ plan!.sample_word || "sample" }}s</dd></div>
      </dl>
      <p v-if="outlook.rare" class="mt-3">{{ outlook.rare }}</p>
      <template v-if="outlook.advice.length && !sealed">
        <h3 class="mt-5 font-bold">What would help</h3>
        <button v-for="one in outlook.advice" :key="one.samples" type="button" class="mt-2 flex w-full items-center gap-4 bg-panel-raised px-4 py-3 text-left" @click="apply(one.samples)">
          <b class="text-[1.4rem]">{{ one.samples }}</b>
          <span>of each{{ plan!.layout.kind === "blocks" ? " in every place" : "" }}, {{ one.more }} more: names it {{ Math.round(100 * one.right) }} times in 100. <u>Take that</u></span>
        </button>
      </template>
      <p v-else-if="!sealed && shares.right < 80" class="mt-4">Even 60 of each would not do: look for a larger difference, or a scale with less spread.</p>
      <button type="button" class="press mt-5 w-full" @click="how = true">How is this worked out?</button>
    </template>
    <p v-else class="mt-3 text-[1.2rem] leading-snug">Name two treatments and one thing to look at, and what the design can tell stands here.</p>

    <div v-if="sealed" class="mt-6 border-t-2 border-panel-ink pt-4">
      <p><b>Sealed</b> {{ moment(sealed.at, zone) }} by {{ sealed.by }}. Nothing in this plan changes any more.</p>
      <p class="code mt-2 text-[0.82rem] font-normal break-all">{{ sealed.seal }}</p>
    </div>
    <div v-else-if="work.saved.value?.may_edit" class="mt-6 border-t-2 border-panel-ink pt-4">
      <template v-if="work.problems.value.length">
        <h3 class="font-bold">{{ work.problems.value.length === 1 ? "One thing" : `${work.problems.value.length} things` }} before it can be sealed</h3>
        <ul class="mt-2 grid gap-1.5" aria-label="Before it can be sealed">
          <li v-for="one in work.problems.value.slice(0, 6)" :key="one.at + one.says"><b>{{ named(one.at) }}:</b> {{ one.says }}</li>
        </ul>
      </template>
      <button type="button" class="press press-main mt-4 w-full" @click="emit('seal')">Seal the plan</button>
    </div>
    <DialogSheet :open="how" title="How this is worked out" @close="how = false">
      <ol class="mt-4 grid list-decimal gap-3 pl-5">
        <li v-for="step in outlook?.steps ?? []" :key="step">{{ step }}</li>
      </ol>
      <button class="press press-main mt-6" @click="how = false">Close</button>
    </DialogSheet>
  </aside>
</template>

<style scoped>
.hatched { background: repeating-linear-gradient(135deg, #41544a 0 6px, #33453b 6px 12px); }
</style>
