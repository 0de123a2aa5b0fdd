<script setup lang="ts">
/** What is looked at: each outcome as a sentence, opened to be changed; several attributes at once from a
 * template.
 */
import { ref, toRaw } from "vue";

import LendDialog from "./LendDialog.vue";
import OutcomeEditor from "./OutcomeEditor.vue";
import PlanRow from "./PlanRow.vue";
import TemplateDialog from "./TemplateDialog.vue";
import { outcome, SCALES, type Outcome } from "./fresh";
import type { Line } from "./lists";
import type { Plan, PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { differenceUnit, honest, scaleWords } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const open = ref<string | null>(null);
const choosing = ref(false);
const lending = ref(false);
const named = () => plan.value.outcomes.filter((one) => one.name.trim());
/** The words of its levels are kept with it, and shown before that. */
const anchors = ({ scale }: Outcome) =>
  scale.kind === "grade" && scale.levels.some((one) => one.anchor)
    ? ` (${scale.levels
        .map((one) => one.anchor)
        .filter(Boolean)
        .join(", ")})`
    : "";
const keep = (name: string) =>
  answer(
    api.POST("/api/scales/shared", {
      body: {
        name,
        attributes: named().map((one) => ({
          name: one.name,
          scale: one.scale,
          better: one.better,
          margin: one.margin,
        })),
      },
    }),
  );
const BETTER = {
  more: "more is better",
  less: "less is better",
  target: "nearest the target is best",
  none: "told without a winner",
};
const hasPrimary = () => plan.value.outcomes.some((one) => one.primary);

function add(): void {
  // An instrument reads a number until somebody says otherwise; nothing wins on it.
  const fresh = plan.value.agreement
    ? outcome({ scale: SCALES.measurement(), better: "none" })
    : outcome({ primary: !hasPrimary() });
  plan.value.outcomes.push(fresh);
  open.value = fresh.key;
}
/** A list pasted as the name of an outcome: the others on the same scale, to be changed. */
function paste(place: number, lines: Line[]): void {
  const here = plan.value.outcomes[place];
  if (!here) return;
  const [first, ...others] = here.name.trim() ? [undefined, ...lines] : lines;
  if (first) here.name = first.name;
  const made = others
    .filter((line) => line !== undefined)
    .map((line) =>
      outcome({ name: line.name, scale: structuredClone(toRaw(here.scale)), better: here.better }),
    );
  plan.value.outcomes.splice(place + 1, 0, ...made);
}
function take(template: Schemas["Template"]): void {
  choosing.value = false;
  const group = template.attributes.length > 1 ? template.name : "";
  for (const { name, scale, better, margin } of template.attributes)
    plan.value.outcomes.push(
      outcome({
        name,
        scale,
        better,
        margin,
        margin_unit: margin === null ? "" : differenceUnit(scale),
        group,
        primary: !hasPrimary() && better !== "none",
      }),
    );
}
const told = (one: Outcome) =>
  `${scaleWords(one.scale)}${one.scale.kind === "note" || plan.value.agreement ? "" : `, ${BETTER[one.better]}`}.`;
const troubled = (i: number) =>
  props.work.problems.value.some((p) => p.at.startsWith(`outcomes.${i}.`)) && props.work.tried.value;
const opens = (i: number, key: string) => open.value === key || (troubled(i) && open.value === null);
</script>

<template>
  <PlanRow
    :title="plan.agreement ? 'Instruments' : 'Outcomes'"
    :hint="
      plan.agreement
        ? 'meters, kits, charts and eyes, each on its own scale; a chart by its labels'
        : 'what is looked at, on which scale'
    "
  >
    <ul class="grid gap-2">
      <li v-for="(one, i) in plan.outcomes" :key="one.key" class="sheet border-b-2 border-ink">
        <div class="flex items-center gap-2 pl-3">
          <p class="grow py-2">
            <b>{{ one.name || (plan.agreement ? "New instrument" : "New outcome") }}</b>, {{ told(one) }}
            <span v-if="one.margin && !plan.agreement" class="text-soft"
              >A difference of {{ honest(one.margin) }} {{ differenceUnit(one.scale) }} matters.</span
            >
            <span v-if="!one.primary && !plan.agreement" class="text-soft"> Supporting.</span>
            <span v-if="one.group" class="text-soft"> Together with the others of “{{ one.group }}”.</span>
          </p>
          <button
            type="button"
            class="quiet flex-none"
            :aria-expanded="opens(i, one.key)"
            :aria-label="`${opens(i, one.key) ? 'Fold' : 'Change'} ${one.name || 'the new outcome'}`"
            @click="open = opens(i, one.key) ? '' : one.key"
          >
            {{ opens(i, one.key) ? "Fold" : work.editable.value ? "Change" : "Show" }}
          </button>
          <TakeOut :what="one.name || 'outcome'" @out="plan.outcomes.splice(i, 1)" />
        </div>
        <ProblemText
          v-if="troubled(i) && !opens(i, one.key)"
          class="px-3 pb-2"
          says="Something here needs mending: open it."
        />
        <OutcomeEditor
          v-if="opens(i, one.key)"
          v-model="plan.outcomes[i]!"
          :at="`outcomes.${i}`"
          :plan="plan"
          :work="work"
          @lines="(lines) => paste(i, lines)"
        />
      </li>
    </ul>
    <div class="mt-3 flex flex-wrap gap-2">
      <button type="button" class="press press-small" data-adds @click="add">
        {{ plan.agreement ? "Add an instrument" : "Add an outcome" }}
      </button>
      <button type="button" class="press press-small" @click="choosing = true">Begin from a template</button>
      <button
        v-if="plan.outcomes.some((one) => one.name.trim())"
        type="button"
        class="quiet"
        @click="lending = true"
      >
        Keep these for everybody here
      </button>
    </div>
    <ProblemText :says="work.says('outcomes')" />
    <LendDialog
      v-if="lending"
      :holds="
        named()
          .map((one) => `${one.name}: ${scaleWords(one.scale)}${anchors(one)}`)
          .join('; ')
      "
      placeholder="Leaf health, three ways"
      :secrets="plan.treatments.map((one) => one.name)"
      :keep="keep"
      @close="lending = false"
    />
    <TemplateDialog v-if="choosing" @take="take" @close="choosing = false" />
  </PlanRow>
</template>
