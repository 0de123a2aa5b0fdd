<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Hosting: who is done, never who was right; the sheet for whoever pours; closing. */
import { computed, ref } from "vue";

import AssessorList from "./AssessorList.vue";
import { METHODS } from "./methods";
import AskSheet from "@/parts/AskSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { honest } from "@/parts/amounts";
import { clock, moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { savePaper } from "@/shell/paper";
import { trialChanged } from "@/shell/query";
import WideTable from "@/parts/WideTable.vue";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ panel: Schemas["PanelOut"]; course: Schemas["CourseOut"] }>();
const emit = defineEmits<{ changed: [panel: Schemas["PanelOut"]] }>();
const path = { params: { path: { panel_id: props.panel.id } } };
const { busy, other, through } = useAct([]);
const done = computed(() => props.panel.assessors.reduce((sum, who) => sum + who.done, 0));
const all = computed(() => props.panel.assessors.reduce((sum, who) => sum + who.of, 0));
const sheet = ref<Schemas["PourOut"]>();
const pour = () =>
  through(async () => {
    sheet.value = await answer(api.POST("/api/panels/{panel_id}/pour", path));
    await trialChanged(props.course.id, ["log"]);
  });
const spilt = ref<Schemas["PouredOut"] | null>(null);
const closing = ref(false);
const spill = (what: string) =>
  through(async () => {
    const one = sure(spilt.value);
    spilt.value = null;
    await answer(
      api.POST("/api/servings/{serving_id}/spilt", {
        params: { path: { serving_id: one.serving } },
        body: { what },
      }),
    );
    sheet.value = await answer(api.POST("/api/panels/{panel_id}/pour", path));
  });
const close = (because = "") =>
  through(async () => {
    closing.value = false;
    emit("changed", await answer(api.POST("/api/panels/{panel_id}/close", { ...path, body: { because } })));
    await trialChanged(props.course.id, ["log"]);
  });
const paper = () =>
  through(async () => {
    await savePaper(`/api/panels/${props.panel.id}/prints/pour.pdf`);
    await trialChanged(props.course.id, ["log"]);
  });
const table = (lay: boolean) =>
  through(async () =>
    emit("changed", await answer(api.POST("/api/panels/{panel_id}/table", { ...path, body: { lay } }))),
  );
const opening = ref(false);
const openKey = () =>
  through(async () => {
    opening.value = false;
    emit("changed", await answer(api.POST("/api/panels/{panel_id}/open", path)));
    await trialChanged(props.course.id, ["log", "course", "panels", "verdict"]);
  });
const adding = ref(false);
const addSession = () =>
  through(async () => {
    adding.value = false;
    emit("changed", await answer(api.POST("/api/panels/{panel_id}/sessions", path)));
    await trialChanged(props.course.id, ["log"]);
  });
const reached = computed(() => props.panel.looks.filter((look) => look.says).at(-1));
const method = computed(() => sure(METHODS.find((one) => one.key === props.panel.plan.method)));
const CHECKS = [
  "Cups all alike, and only the code on them",
  "Filled to the same height",
  "The same temperature",
  "The same light; coloured if colour tells",
  "Water, a spit cup and a plain biscuit at each seat",
  "Whoever pours does not serve, and the host does not taste",
];
const print = () => window.print();
</script>

<template>
  <div class="grid grid-cols-[minmax(0,1fr)] gap-6">
    <div class="flex flex-wrap items-start justify-between gap-4">
      <div>
        <LongName as="h1" :text="panel.plan.title" />
        <p class="text-soft">
          {{ method.name }}.
          {{
            panel.state === "closed"
              ? "Closed; what it found is told when you open its key."
              : "Nobody, you neither, sees who is right before its key opens."
          }}
        </p>
      </div>
      <TallyStrokes :solid="done" :rest="all - done" :label="`${done} of ${all} answers given`" />
    </div>
    <p class="text-[1.3rem] font-bold" role="status">
      {{ done === all ? `All ${all} answers are given.` : `${done} of ${all} answers are given.` }}
    </p>
    <div class="no-print flex flex-wrap gap-3">
      <button
        v-if="course.may_prepare && panel.plan.material === 'cups'"
        class="press"
        :disabled="busy"
        @click="pour"
      >
        {{ sheet ? "Load the sheet again" : "Show what goes into the cups" }}
      </button>
      <button
        v-if="course.may_prepare && panel.plan.material === 'cups'"
        class="press"
        :disabled="busy"
        @click="paper"
      >
        The same on paper
      </button>
      <a
        v-if="course.may_lead && panel.plan.material === 'cups'"
        class="press"
        :href="`/api/panels/${panel.id}/prints/cards.pdf`"
        download
        >Cards for the seats</a
      >
      <button
        v-if="course.may_lead && panel.state === 'open' && !panel.table"
        class="press"
        :disabled="busy"
        @click="table(true)"
      >
        Hand a tablet round
      </button>
      <button
        v-if="course.may_lead && panel.state === 'open' && panel.plan.looks < 2"
        class="press"
        :disabled="busy"
        @click="adding = true"
      >
        One more session
      </button>
      <button
        v-if="course.may_lead && panel.state === 'open'"
        class="press"
        :disabled="busy"
        @click="done < all ? (closing = true) : close()"
      >
        Close the panel
      </button>
      <button
        v-if="course.may_lead && panel.state === 'closed'"
        class="press press-main"
        :disabled="busy"
        @click="opening = true"
      >
        Open the key of this panel
      </button>
    </div>
    <p v-if="panel.due" class="text-soft">
      Planned for {{ moment(panel.due, course.zone)
      }}{{ panel.until ? `, until ${clock(panel.until, course.zone)}` : "" }}.
    </p>
    <p v-if="panel.table" class="no-print">
      The tablet goes round at <a :href="panel.table" target="_blank" rel="noopener">its own link</a>: open it
      there, and nothing else.
      <button type="button" class="quiet" :disabled="busy" @click="table(false)">Take it back</button>
    </p>
    <section
      v-if="panel.looks.length"
      class="on-panel bg-panel p-4 text-panel-ink"
      aria-label="Looks that were planned"
    >
      <p class="text-[1.2rem] font-bold" role="status">
        {{
          reached
            ? ({ "go on": "Go on.", "all are in": "All are in; the result comes with its key." }[
                reached.says
              ] ?? `You may ${reached.says}.`)
            : `The first look comes after ${panel.looks[0]!.n} answers.`
        }}
      </p>
      <p class="mt-1">
        Looks after {{ panel.looks.map((look) => look.n).join(", ") }} answers, fixed beforehand. No count is
        told at them.
      </p>
    </section>
    <p v-if="panel.plan.break_off && panel.state === 'open'" class="border-l-4 border-ink pl-3">
      <b>Broken off if:</b> {{ panel.plan.break_off }}
    </p>
    <p v-if="panel.closed_because" class="border-l-4 border-ink pl-3">
      <b>Ended early:</b> {{ panel.closed_because }}
    </p>
    <p v-if="course.may_prepare && !sheet && panel.plan.material === 'cups'" class="text-soft">
      Whoever looks must not judge, and is written into the log.
    </p>
    <ProblemText :says="other" />
    <section v-if="sheet" aria-label="What goes into the cups">
      <div class="flex flex-wrap items-baseline justify-between gap-3">
        <h2>What goes into the cups</h2>
        <button type="button" class="quiet no-print" @click="print">Print it</button>
      </div>
      <p>
        {{ honest(sheet.amount, 3) }} {{ sheet.unit }} into each; in all
        {{
          sheet.totals.map((one) => `${honest(one.amount, 4)} ${sheet!.unit} of ${one.thing}`).join(", ")
        }}.<template v-if="sheet.words_to_say"> Read out: “{{ sheet.words_to_say }}”</template>
      </p>
      <p v-if="sheet.first" class="mt-1 font-bold">{{ sheet.first }}</p>
      <ul class="mt-2 grid gap-1 sm:grid-cols-2">
        <li v-for="one in CHECKS" :key="one">
          <label class="flex min-h-11 items-center gap-3"
            ><input type="checkbox" class="h-6 w-6 flex-none" /> {{ one }}</label
          >
        </li>
      </ul>
      <WideTable label="Sets to pour" class="mt-3">
        <table class="figures">
          <thead>
            <tr>
              <th scope="col">Seat</th>
              <th scope="col">Who</th>
              <th scope="col">Cups, in their order</th>
              <th class="no-print" scope="col">If it is spilt</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in sheet.sets" :key="one.serving">
              <td class="code">{{ one.assessor }}</td>
              <td>
                {{ one.name }}{{ panel.sessions > 1 ? `, session ${one.session + 1}` : ""
                }}<span v-if="one.stimulus" class="block text-soft">{{ one.stimulus }}</span>
              </td>
              <td>
                <span v-for="cup in one.cups" :key="cup.code + cup.thing" class="mr-6 inline-block"
                  ><b class="code">{{ cup.code === "R" ? "Ref." : cup.code }}</b> {{ cup.thing
                  }}<template v-if="cup.sample"
                    >, from <span class="code">{{ cup.sample }}</span></template
                  ></span
                >
              </td>
              <td class="no-print">
                <span v-if="one.answered" class="text-soft">answered</span>
                <button
                  v-else-if="panel.state === 'open'"
                  type="button"
                  class="quiet"
                  :aria-label="`The set of ${one.name} was spilt`"
                  @click="spilt = one"
                >
                  Spilt
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </WideTable>
    </section>
    <AssessorList :panel="panel" :course="course" @changed="(found) => emit('changed', found)" />
    <AskSheet
      v-if="spilt"
      :title="`The set of ${spilt.name} was spilt`"
      says="Another one of the same order takes its place, under fresh codes. The old cups are thrown away."
      label="What happened?"
      go="Pour another one"
      @go="spill"
      @close="spilt = null"
    />
    <AskSheet
      v-if="opening"
      title="Open the key of this panel?"
      :says="`What it found is told to you at once${course.is_tasting || course.state === 'opened' ? ', and to all who may read this' : '; others here read it once the trial’s key is open'}. Who counts is fixed with it: note first who was not blind.`"
      go="Open it"
      @go="openKey"
      @close="opening = false"
    />
    <AskSheet
      v-if="adding"
      title="One more session?"
      says="Everybody who counts gets as many sets again, and the balance of orders is kept. It is decided without knowing any result, and written into the log."
      go="Add the session"
      @go="addSession"
      @close="adding = false"
    />
    <AskSheet
      v-if="closing"
      title="Close the panel?"
      :says="`${all - done} answers are not given yet, and none are taken afterwards. The log and the result tell why.`"
      label="Why does it end early?"
      go="Close it"
      @go="close"
      @close="closing = false"
    />
  </div>
</template>
