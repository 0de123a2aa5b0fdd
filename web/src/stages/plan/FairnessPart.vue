<script setup lang="ts">
/** The fairness list: judged by the app wherever it can; the rest is for a person to keep or to give up. */
import { computed, reactive, ref, watch } from "vue";

import FairnessItem from "./FairnessItem.vue";
import PlanRow from "./PlanRow.vue";
import type { Plan, PlanAtWork } from "./usePlan";
import type { Schemas } from "@/shell/api/client";
import TallyStrokes from "@/parts/TallyStrokes.vue";

type Item = Schemas["FairFinding"];
const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const items = computed(() => props.work.judged.value?.fairness ?? []);
const open = computed(() => items.value.filter((one) => one.standing === "open"));
/** Where an item stood when somebody began to write why it is given up: a judgement that comes meanwhile does
 * not take it from under their hands. */
const held = reactive(new Map<string, boolean>());
const stands = (one: Item) => held.get(one.key) ?? one.standing === "open";
/** What matters most for this plan stands first. */
const shown = computed(() => items.value.filter(stands).sort((a, b) => b.weight - a.weight));
const rest = computed(() => items.value.filter((one) => !stands(one)));
/** What is kept is told by its names alone while something is asked, until somebody unfolds it. */
const folded = ref<boolean>();
watch(
  items,
  (now) => {
    if (now.length) folded.value ??= props.work.editable.value && now.some((one) => one.standing === "open");
  },
  { immediate: true },
);
const told = computed(() => rest.value.filter((one) => !folded.value || one.standing !== "kept"));
const untold = computed(() => rest.value.filter((one) => !told.value.includes(one)));
const count = (standing: string) => items.value.filter((one) => one.standing === standing).length;
function stand(item: string, kept: boolean, reason: string): void {
  held.delete(item);
  const others = plan.value.fairness.filter((one) => one.item !== item);
  plan.value.fairness = [...others, { item, kept, reason }];
}
const takeBack = (item: string) =>
  (plan.value.fairness = plan.value.fairness.filter((one) => one.item !== item));
</script>

<template>
  <div>
    <div v-if="items.length" class="mt-4 flex flex-wrap items-center justify-between gap-4">
      <p class="max-w-md text-[1.1rem] leading-snug">
        <b
          >{{ count("kept") }} of {{ items.length }} kept{{
            count("given_up") ? `, ${count("given_up")} given up` : ""
          }}.</b
        >
        {{
          open.length
            ? `${open.length} still open: yes, no or don’t know. What is not so, the verdict tells.`
            : count("given_up")
              ? "Nothing is open. What was given up stands in the verdict, under what may not be claimed."
              : "Nothing is open or given up: the comparison is as fair as you can make it."
        }}
      </p>
      <TallyStrokes
        :solid="count('kept')"
        :hollow="count('given_up')"
        :rest="open.length"
        :label="`${count('kept')} kept, ${count('given_up')} given up, ${open.length} open`"
      />
    </div>
    <PlanRow v-if="shown.length" title="Open">
      <ul class="grid gap-2">
        <FairnessItem
          v-for="one in shown"
          :key="one.key"
          :item="one"
          :editable="work.editable.value"
          @keep="stand(one.key, true, '')"
          @giving="held.set(one.key, stands(one))"
          @give-up="(reason) => stand(one.key, false, reason)"
        />
      </ul>
    </PlanRow>
    <PlanRow v-if="items.length" title="Settled">
      <p v-if="untold.length" class="max-w-3xl">
        <b>{{ untold.length }} kept:</b>
        {{ untold.map((one) => one.title.charAt(0).toLowerCase() + one.title.slice(1)).join("; ") }}.
        <button type="button" class="quiet" aria-expanded="false" @click="folded = false">
          Why each is kept
        </button>
      </p>
      <ul v-if="told.length" class="grid gap-x-6 xl:grid-cols-2">
        <FairnessItem
          v-for="one in told"
          :key="one.key"
          :item="one"
          :editable="work.editable.value"
          :taken="plan.fairness.some((mine) => mine.item === one.key)"
          @take-back="takeBack(one.key)"
          @giving="held.set(one.key, stands(one))"
          @give-up="(reason) => stand(one.key, false, reason)"
        />
      </ul>
    </PlanRow>
  </div>
</template>
