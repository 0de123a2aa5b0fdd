<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Planning a panel: the test from the question, who judges, and beside it what such a panel can find. */
import { computed, onUnmounted, reactive, ref, watch } from "vue";

import AssessorList from "./AssessorList.vue";
import PanelFinds from "./PanelFinds.vue";
import PanelMaterials from "./PanelMaterials.vue";
import { METHODS, type PanelPlan } from "./methods";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import LabelledField from "@/parts/LabelledField.vue";
import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf, type Problem } from "@/shell/api/problems";

const props = defineProps<{ panel: Schemas["PanelOut"]; course: Schemas["CourseOut"] }>();
const emit = defineEmits<{ changed: [panel: Schemas["PanelOut"]] }>();
const plan = reactive<PanelPlan>(JSON.parse(JSON.stringify(props.panel.plan)) as PanelPlan);
const version = ref(props.panel.version);
const problems = ref<Problem[]>(props.panel.problems);
const outlook = ref(props.panel.outlook);
const saved = ref<"" | "saving" | "saved">("");
const wrong = ref("");
const path = { params: { path: { panel_id: props.panel.id } } };
const says = (at: string) => problems.value.find((one) => one.at === at || one.at.startsWith(`${at}.`))?.says;
let timer = 0;
watch(plan, () => {
  saved.value = "saving";
  window.clearTimeout(timer);
  timer = window.setTimeout(() => void save(), 350);
});
onUnmounted(() => {
  if (saved.value === "saving") void save();
  window.clearTimeout(timer);
});
/** The save that is under way, if any: one at a time, since two at once would go from the same version, and
 * the second be taken for somebody else's. */
let running: Promise<boolean> = Promise.resolve(true);
function save(): Promise<boolean> {
  window.clearTimeout(timer);
  running = running.then(put);
  return running;
}
async function put(): Promise<boolean> {
  const sent = JSON.stringify(plan);
  try {
    const found = await answer(
      api.PUT("/api/panels/{panel_id}", {
        ...path,
        body: { plan: JSON.parse(sent) as PanelPlan, version: version.value },
      }),
    );
    version.value = found.version;
    problems.value = found.problems;
    outlook.value = found.outlook;
    // What was changed while it was on its way is saved with the next.
    if (sent === JSON.stringify(plan)) saved.value = "saved";
    wrong.value = "";
    return true;
  } catch (error) {
    wrong.value = sure(problemsOf(error)[0]).says;
    return false;
  }
}
async function begin(): Promise<void> {
  if (saved.value === "saving" && !(await save())) return;
  try {
    emit(
      "changed",
      await answer(api.POST("/api/panels/{panel_id}/begin", { ...path, body: undefined as never })),
    );
  } catch (error) {
    wrong.value = sure(problemsOf(error)[0]).says;
  }
}
const method = computed(() => sure(METHODS.find((one) => one.key === plan.method)));
const questions = computed(() => [...new Set(METHODS.map((one) => one.asks))]);
const of = (question: string) => METHODS.filter((one) => one.asks === question);
const counts = computed(
  () => !["a-not-a", "same-different", "naming", "preference", "ranking", "grading"].includes(plan.method),
);
const pair = computed(() => !["naming", "ranking", "preference", "grading"].includes(plan.method));
function kept(found: Schemas["PanelOut"]): void {
  problems.value = found.problems;
  emit("changed", found);
}
function toggle(key: string): void {
  const at = plan.things.indexOf(key);
  if (at >= 0) plan.things.splice(at, 1);
  else plan.things.push(key);
}
const percent = (name: "noticing" | "limit" | "wanted") =>
  computed({
    get: () => Math.round(plan[name] * 100),
    set: (value: number | null) => (plan[name] = (value ?? 0) / 100),
  });
const [noticing, limit] = [percent("noticing"), percent("limit")];
const chips = computed({
  get: () => plan.chips.join(", "),
  set: (text: string) =>
    (plan.chips = text
      .split(",")
      .map((one) => one.trim())
      .filter(Boolean)),
});
const stimuli = computed({
  get: () => plan.stimuli.join(", "),
  set: (text: string) =>
    (plan.stimuli = text
      .split(",")
      .map((one) => one.trim())
      .filter(Boolean)),
});
const on = computed({ get: () => plan.on ?? "", set: (text: string) => (plan.on = text || null) });
const needed = (
  name: "assessors" | "sessions" | "sets" | "pause" | "amount" | "looks" | "window",
  value: number | null,
) => (plan[name] = value ?? 0);
</script>

<template>
  <div class="mt-1 grid items-start gap-8 xl:grid-cols-[minmax(0,1fr)_330px]">
    <div class="grid gap-7">
      <h1>{{ plan.title.trim() || "A panel" }}</h1>
      <LabelledField v-model="plan.title" label="Name of the panel" :says="says('title')" />
      <div>
        <h2>What do you want to know?</h2>
        <div class="grid items-start gap-x-5 sm:grid-cols-2">
          <div
            v-for="question in questions"
            :key="question"
            class="mt-3"
            :class="{ 'sm:col-span-2': of(question).length > 1 }"
          >
            <ChoiceRow
              v-model="plan.method"
              :legend="question"
              :choices="of(question).map((one) => ({ value: one.key, name: one.name, says: one.says }))"
            />
          </div>
        </div>
        <LabelledField
          v-if="method.asks === 'Which is more …?'"
          v-model="plan.attribute"
          class="mt-3 max-w-sm"
          label="Which is more"
          placeholder="crunchy"
          hint="The first of the two below is the one you expect to be more."
          :says="says('attribute')"
        />
      </div>
      <fieldset>
        <legend class="text-[1.15rem] font-bold">
          What is put before them?{{ pair ? " Two of these." : "" }}
        </legend>
        <div class="mt-2 flex flex-wrap gap-2">
          <label
            v-for="thing in panel.things"
            :key="thing.key"
            class="thing"
            :class="{ chosen: plan.things.includes(thing.key) }"
            ><input
              type="checkbox"
              class="sr-only"
              :checked="plan.things.includes(thing.key)"
              @change="toggle(thing.key)"
            /><b v-if="plan.things.includes(thing.key)" class="code">{{
              "ABCDEFGHIJKLMNOP"[plan.things.indexOf(thing.key)]
            }}</b>
            {{ thing.name }}</label
          >
        </div>
        <ProblemText :says="says('things')" />
      </fieldset>
      <PanelMaterials
        v-model="plan.material"
        :panel="panel"
        :things="panel.things.filter((one) => plan.things.includes(one.key))"
        :stimuli="plan.stimuli"
        :says="says('material')"
        :saved="async () => saved !== 'saving' || (await save())"
        @kept="kept"
      />
      <label v-if="plan.material === 'cups'" class="tick"
        ><input v-model="plan.own_samples" type="checkbox" /> cups are filled from the trial’s own
        {{ course.sample_words }}, as aged and treated as they are</label
      >
      <LabelledField
        v-model="stimuli"
        label="Asked over several? Name them, with commas between"
        placeholder="The reel, The air, The march"
        hint="Songs, dishes, fields: everybody judges with each of them, and it is told apart and together."
        :says="says('stimuli')"
      />
      <div v-if="!counts" class="grid gap-4 sm:grid-cols-3">
        <NumberField
          v-model="noticing"
          label="To be found if so many tell truly"
          unit="%"
          :says="says('noticing')"
        />
      </div>
      <div v-if="counts" class="grid gap-4">
        <ChoiceRow
          v-model="plan.school"
          legend="Two schools: choose one, before anybody tastes"
          :choices="[
            { value: 'difference', name: 'Is there a difference?', says: 'Chance has to be ruled out.' },
            {
              value: 'alike',
              name: 'Are they alike enough?',
              says: 'It has to be shown that few notice. Not finding a difference does not show it.',
            },
          ]"
        />
        <ProblemText :says="says('school')" />
        <div class="grid gap-4 sm:grid-cols-3">
          <NumberField
            v-if="plan.school === 'difference'"
            v-model="noticing"
            label="To be found if so many notice"
            unit="%"
            :says="says('noticing')"
          />
          <NumberField
            v-else
            v-model="limit"
            label="Alike if fewer notice than"
            unit="%"
            :says="says('limit')"
          />
          <NumberField
            :model-value="plan.alpha"
            label="Risk of a false alarm"
            :says="says('alpha')"
            @update:model-value="(value) => (plan.alpha = value ?? 0)"
          />
          <NumberField
            v-if="plan.school === 'difference'"
            :model-value="plan.d"
            label="Or of this size, d′"
            placeholder="1.5"
            :says="says('d')"
            @update:model-value="(value) => (plan.d = value)"
          />
          <NumberField
            v-if="plan.school === 'difference'"
            :model-value="plan.looks"
            label="Looks while it runs (1: none)"
            whole
            needed
            :says="says('looks')"
            @update:model-value="(value) => needed('looks', value)"
          />
        </div>
      </div>
      <div class="grid gap-4 sm:grid-cols-3">
        <NumberField
          :model-value="plan.assessors"
          label="People"
          whole
          needed
          :says="says('assessors')"
          @update:model-value="(value) => needed('assessors', value)"
        />
        <NumberField
          :model-value="plan.sets"
          label="Sets for each"
          whole
          needed
          :says="says('sets')"
          @update:model-value="(value) => needed('sets', value)"
        />
        <NumberField
          :model-value="plan.sessions"
          label="Sessions"
          whole
          needed
          :says="says('sessions')"
          @update:model-value="(value) => needed('sessions', value)"
        />
        <NumberField
          v-if="plan.material === 'cups'"
          :model-value="plan.amount"
          label="In each cup"
          :unit="plan.amount_unit"
          needed
          :says="says('amount')"
          @update:model-value="(value) => needed('amount', value)"
        />
        <LabelledField v-if="plan.material === 'cups'" v-model="plan.amount_unit" label="Measured in" />
        <NumberField
          :model-value="plan.pause"
          label="Pause between sets"
          unit="s"
          whole
          needed
          :says="says('pause')"
          @update:model-value="(value) => needed('pause', value)"
        />
      </div>
      <div class="grid gap-4 sm:grid-cols-3">
        <LabelledField v-model="on" label="Planned for" type="datetime-local" :says="says('on')" />
        <NumberField
          :model-value="plan.window || null"
          label="People judge within"
          unit="min"
          whole
          placeholder="any time"
          :says="says('window')"
          @update:model-value="(value) => needed('window', value)"
        />
        <label class="tick self-end"
          ><input v-model="plan.cards" type="checkbox" /> everybody may see how they did, once the key is
          open</label
        >
      </div>
      <div class="grid gap-3">
        <h2>What is asked besides</h2>
        <label v-if="pair && plan.method !== 'preference'" class="tick"
          ><input v-model="plan.preference" type="checkbox" /> which is liked best</label
        >
        <label class="tick"><input v-model="plan.confidence" type="checkbox" /> how sure they are</label>
        <label class="tick"><input v-model="plan.free_words" type="checkbox" /> words of their own</label>
        <label v-if="plan.method === 'naming'" class="tick"
          ><input v-model="plan.each_once" type="checkbox" /> each name is used once</label
        >
        <label v-if="plan.preference || plan.method === 'preference'" class="block max-w-md"
          ><span class="mb-1 block text-[0.9rem] text-soft">Answers without a preference</span
          ><select v-model="plan.no_preference" class="field">
            <option value="drop">are left out</option>
            <option value="split">are shared between the two</option>
            <option value="third">stay an answer of their own</option>
          </select></label
        >
        <fieldset class="grid gap-2">
          <legend class="font-bold">Graded for each {{ plan.material === "cups" ? "cup" : "one" }}</legend>
          <div
            v-for="(one, i) in plan.attributes"
            :key="i"
            class="grid items-end gap-2 sm:grid-cols-[1fr_1fr_1fr_6rem_auto]"
          >
            <LabelledField
              v-model="one.name"
              label="What"
              placeholder="Crunch"
              :says="says(`attributes.${i}.name`)"
            />
            <LabelledField v-model="one.low" label="0 is" />
            <LabelledField v-model="one.high" label="the most is" />
            <NumberField
              :model-value="one.steps"
              label="up to"
              whole
              needed
              :says="says(`attributes.${i}.steps`)"
              @update:model-value="(value) => (one.steps = value ?? 0)"
            />
            <TakeOut :what="one.name || 'this attribute'" @out="plan.attributes.splice(i, 1)" />
          </div>
          <ProblemText :says="problems.find((one) => one.at === 'attributes')?.says" />
          <button
            type="button"
            class="press press-small justify-self-start"
            data-adds
            @click="plan.attributes.push({ name: '', low: 'none', high: 'very much', steps: 10 })"
          >
            Add an attribute
          </button>
        </fieldset>
        <LabelledField
          v-model="chips"
          label="Words to tap, with commas between"
          placeholder="crisp, soft, sour"
        />
      </div>
      <div class="grid gap-3">
        <h2>Told to everybody beforehand</h2>
        <LabelledField
          v-model="plan.allergens"
          label="Allergens"
          placeholder="mustard, celery"
          hint="Ask about allergies before anybody tastes; the product’s label has the last word."
        />
        <LabelledField
          v-model="plan.dose"
          label="How much of what"
          placeholder="2 slices in all; 0.5 g salt"
        />
        <LabelledField v-model="plan.words_to_say" label="Words read out to everybody, always the same" />
        <LabelledField
          v-model="plan.break_off"
          label="It is broken off if"
          placeholder="anybody feels unwell"
          hint="Fixed with the beginning, and told to everybody."
        />
        <label class="tick"
          ><input v-model="plan.adults" type="checkbox" /> alcohol is served: adults only</label
        >
      </div>
    </div>
    <PanelFinds
      class="xl:sticky xl:top-4 xl:row-span-2"
      :plan="plan"
      :outlook="outlook"
      :first="problems[0]?.says"
    />
    <div class="grid min-w-0 gap-7">
      <AssessorList :panel="panel" :course="course" @changed="(found) => emit('changed', found)" />
      <div>
        <ProblemText :says="wrong" />
        <ul v-if="problems.length" class="list-disc pl-5">
          <li v-for="one in problems" :key="one.at + one.says">{{ one.says }}</li>
        </ul>
        <button class="press press-main mt-3" :disabled="problems.length > 0" @click="begin">
          Draw the cups and begin
        </button>
        <p class="mt-1 text-soft" role="status">
          {{ saved === "saving" ? "Saving …" : saved === "saved" ? "Saved." : "" }} What is asked is fixed
          once it has begun.
        </p>
      </div>
    </div>
  </div>
</template>

<style scoped>
.thing {
  display: inline-flex;
  gap: 0.6rem;
  align-items: center;
  min-height: 48px;
  padding: 0 1rem;
  border: 2px solid var(--line);
  cursor: pointer;
}
.thing:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
.chosen {
  border-color: var(--ink);
  box-shadow: inset 0 -6px 0 var(--ink);
}
.tick {
  display: flex;
  min-height: 44px;
  align-items: center;
  gap: 0.75rem;
}
.tick input {
  width: 24px;
  height: 24px;
  flex: none;
}
</style>
