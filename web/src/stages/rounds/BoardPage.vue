<script setup lang="ts">
/** The board: what is due, and every sample as a tag in its place. */
import { computed, ref } from "vue";

import AsideDialog from "./AsideDialog.vue";
import HappenedDialog from "./HappenedDialog.vue";
import SecondCodes from "./SecondCodes.vue";
import FindSample from "./FindSample.vue";
import LookDialog from "./LookDialog.vue";
import NotebookBox from "./NotebookBox.vue";
import OwnPrediction from "@/stages/plan/OwnPrediction.vue";
import { boardsOf } from "@/parts/boards";
import SealMark from "@/parts/SealMark.vue";
import SampleTag from "@/parts/SampleTag.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { scaleWords } from "@/parts/amounts";
import { span, standingWords } from "@/parts/moments";
import type { Schemas } from "@/shell/api/client";
import { useNow } from "@/shell/now";
import { useBoard } from "@/shell/query";
import { sampleOf, wordFor } from "@/parts/nouns";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data: board } = useBoard(() => props.id);
const now = useNow();
const aside = ref<string | null>(null);
const changing = ref<"skip" | "now" | null>(null);
const calls = computed(
  () =>
    props.course.checkpoints.find((s) => s.standing === "due") ??
    props.course.checkpoints.find((s) => s.standing === "late"),
);
const next = computed(() => props.course.checkpoints.find((stop) => stop.standing === "upcoming"));
const groups = computed(() => boardsOf(board.value?.tags ?? [], props.course));
/** Nothing more is to come, and nothing waits in the notebook. */
const over = computed(() => props.course.state === "running" && !calls.value && !next.value);
const looked = (keys: string[]) =>
  props.course.outcomes.filter((o) => keys.some((key) => o.checkpoints.includes(key)));
const left = (stop: Schemas["CheckpointOut"]) => stop.samples - stop.samples_done;
const counted = (many: number) => many.toLocaleString("en");
/** So many tags are looked through; of more one wants to know where to go. */
const FEW = 200;
const jumps = computed(() =>
  groups.value.length > 1 && (board.value?.tags.length ?? 0) > FEW ? groups.value : [],
);
const asides = computed(() => board.value?.tags.filter((tag) => tag.set_aside) ?? []);
const nameOf = (key: string) => props.course.checkpoints.find((stop) => stop.key === key)?.name ?? "";
const captions = computed(() =>
  [
    `A stroke for each look taken${asides.value.length ? "; struck through: set aside" : ""}.`,
    props.course.state === "opened" ? "" : "No colour until the key is opened.",
    mayAside.value ? "Tap a tag when something happened to it." : "",
  ].filter(Boolean),
);
const mayAside = computed(
  () =>
    props.course.state !== "draft" &&
    (props.course.may_lead || (props.course.may_score && props.course.state === "running")),
);
</script>

<template>
  <section class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <div class="flex flex-wrap items-start justify-between gap-4">
      <div class="max-w-2xl min-w-0 flex-1 basis-80">
        <LongName as="h1" :text="course.title" />
        <p class="mt-1 text-soft">
          {{ course.question }}
          <template v-if="course.state === 'running'">{{ course.blinding }}</template>
        </p>
      </div>
      <SealMark v-if="course.seal" :course="course" />
    </div>

    <NotebookBox v-if="course.may_lead && course.state === 'running'" :id="id" :course="course" />
    <div
      v-if="calls && course.may_score"
      class="no-print mt-5 flex flex-wrap items-center justify-between gap-4 bg-due p-4 text-on-due lg:px-5"
    >
      <div>
        <p class="text-[1.15rem] font-bold">
          {{ calls.name }} is {{ standingWords(calls, now, course.zone) }}
        </p>
        <p>
          {{
            looked([calls.key])
              .map((o) => o.name)
              .join(", ")
          }}. {{ counted(left(calls)) }} of {{ counted(calls.samples) }}
          {{ wordFor(calls.samples, sampleOf(course)) }} still to score.
        </p>
      </div>
      <div class="flex flex-wrap items-center gap-4">
        <span class="hidden bg-[#fbfcfa] px-3 py-2 md:block">
          <TallyStrokes
            :solid="calls.samples_done"
            :rest="left(calls)"
            :label="`${calls.samples_done} scored, ${left(calls)} to go`"
          />
        </span>
        <RouterLink
          class="press border-on-due bg-on-due text-[#fbfcfa]"
          :to="{ name: 'round', params: { id, checkpoint: calls.key } }"
        >
          {{ calls.done ? "Go on scoring" : "Begin scoring" }}
        </RouterLink>
      </div>
    </div>
    <div
      v-else
      class="no-print rule mt-5 flex flex-wrap items-center justify-between gap-4 border-t-2 border-ink py-3"
    >
      <p class="text-[1.05rem]">
        <template v-if="course.state === 'draft'"
          >This trial is still being planned; it is scored once the plan is sealed.</template
        >
        <template v-else-if="course.state === 'sealed'"
          >The codes are drawn. Once every {{ course.sample_word }} has its treatment, exposure starts and the
          clock runs.</template
        >
        <template v-else-if="course.state === 'opened'"
          >The key is open and this trial is concluded.</template
        >
        <template v-else-if="over"
          >All looks are over.
          {{ course.may_open_key ? "The key can be opened." : "The lead can open the key." }}</template
        >
        <template v-else-if="calls"
          >{{ calls.name }} is being scored, {{ standingWords(calls, now, course.zone) }}.</template
        >
        <template v-else-if="next"
          >Nothing is due. {{ next.name }} comes in
          {{ span(new Date(next.opens!).getTime() - now.getTime()) }}.</template
        >
      </p>
      <RouterLink
        v-if="course.state === 'draft' && course.may_edit_plan"
        class="press press-main"
        :to="{ name: 'plan', params: { id } }"
        >Go on planning</RouterLink
      >
      <RouterLink
        v-else-if="course.state === 'sealed' && course.may_prepare"
        class="press press-main"
        :to="{ name: 'prepare', params: { id } }"
        >Prepare the {{ course.sample_words }}</RouterLink
      >
      <RouterLink
        v-else-if="course.state === 'opened' || (over && course.may_open_key)"
        class="press press-main"
        :to="{ name: 'verdict', params: { id } }"
      >
        {{ course.state === "opened" ? "Read the verdict" : "To the verdict" }}
      </RouterLink>
    </div>

    <div
      v-if="course.state === 'running' && course.may_score"
      class="no-print mt-1 flex flex-wrap items-center gap-x-4"
    >
      <p v-if="course.ending" class="grow py-2" :class="{ 'font-bold': course.ending.met }" data-test="stop">
        {{ course.ending.says }}
      </p>
      <p v-if="course.cycle_word" class="py-2">{{ course.cycles }} counted: {{ course.cycle_word }}</p>
      <button v-if="calls ?? next" type="button" class="quiet" @click="changing = 'skip'">
        Skip {{ (calls ?? next)!.name }}
      </button>
      <button type="button" class="quiet" @click="changing = 'now'">Look now, unplanned</button>
    </div>

    <dl v-if="board?.key.length" class="mt-4 flex flex-wrap gap-x-6 gap-y-1">
      <div v-for="(one, i) in board.key" :key="one.letter" class="flex items-center gap-2" :data-hue="i % 8">
        <dt class="grid h-6 min-w-6 place-items-center bg-(--hue) px-1 font-bold text-sheet">
          {{ one.letter }}
        </dt>
        <dd>{{ one.name }}</dd>
      </div>
    </dl>

    <FindSample v-if="board?.tags.length" :trial="id" class="no-print mt-4 max-w-xl" />
    <nav v-if="jumps.length" class="no-print mt-3 flex flex-wrap gap-x-4" aria-label="Places on this board">
      <a
        v-for="(group, i) in jumps"
        :key="group.key"
        class="quiet inline-flex items-center"
        :href="`#board-${i}`"
        >{{ group.name }}</a
      >
    </nav>
    <div
      v-if="board?.tags.length"
      class="mt-4 grid gap-x-7 gap-y-6"
      :class="{ 'xl:grid-cols-2': groups.length > 1 }"
    >
      <div
        v-for="(group, i) in groups"
        :id="`board-${i}`"
        :key="group.key"
        class="min-w-0 scroll-mt-4 [content-visibility:auto]"
      >
        <div
          v-if="group.name"
          class="flex flex-wrap items-baseline justify-between gap-x-4 border-b-2 border-ink pb-2"
        >
          <h2>{{ group.name }}</h2>
          <p class="text-soft">{{ group.note }}</p>
        </div>
        <ul
          class="mt-3 grid gap-2.5"
          :class="
            group.columns
              ? 'overflow-x-auto'
              : ['grid-cols-2 sm:grid-cols-3', groups.length === 1 ? 'lg:grid-cols-5' : '']
          "
          :style="
            group.columns ? { gridTemplateColumns: `repeat(${group.columns}, minmax(7.4rem, 1fr))` } : {}
          "
        >
          <li
            v-for="tag in group.tags"
            :key="tag.code"
            :style="
              group.columns && tag.row && tag.column ? { gridRow: tag.row, gridColumn: tag.column } : {}
            "
          >
            <button
              v-if="mayAside"
              class="block w-full text-left"
              :aria-label="`Sample ${tag.code}`"
              @click="aside = tag.code"
            >
              <SampleTag
                :code="tag.code"
                :looks="tag.looks"
                :set-aside="tag.set_aside"
                :letter="tag.letter"
              />
            </button>
            <SampleTag
              v-else
              :code="tag.code"
              :looks="tag.looks"
              :set-aside="tag.set_aside"
              :letter="tag.letter"
            />
          </li>
        </ul>
      </div>
    </div>
    <p v-if="board?.tags.length" class="mt-4 text-soft">
      {{ captions.join(" ") }}
    </p>
    <div v-if="board?.tags.length" class="rule mt-6 grid gap-x-7 gap-y-5 pt-4 xl:grid-cols-2">
      <div>
        <h2>Looked at</h2>
        <dl class="mt-1">
          <div v-for="one in course.outcomes" :key="one.key" class="flex flex-wrap gap-x-3 py-0.5">
            <dt class="font-medium">{{ one.name }}</dt>
            <dd class="text-soft">
              {{ scaleWords(one.scale)
              }}{{
                one.checkpoints.length < course.checkpoints.length
                  ? `, on ${one.checkpoints.map(nameOf).join(", ")}`
                  : ""
              }}
            </dd>
          </div>
        </dl>
      </div>
      <div v-if="asides.length">
        <h2>Set aside</h2>
        <dl class="mt-1">
          <div v-for="one in asides" :key="one.code" class="flex flex-wrap gap-x-3 py-0.5">
            <dt class="code">{{ one.code }}</dt>
            <dd class="text-soft">{{ one.set_aside }}</dd>
          </div>
        </dl>
      </div>
    </div>
    <div v-if="course.state !== 'opened'" class="no-print rule mt-6 max-w-2xl pt-4">
      <h2 class="mb-2">Your prediction</h2>
      <OwnPrediction :trial="id" :zone="course.zone" />
    </div>
    <LookDialog
      v-if="changing"
      :id="id"
      :what="changing"
      :stop="calls ?? next ?? null"
      :zone="course.zone"
      @close="changing = null"
    />
    <SecondCodes
      v-if="course.role === 'preparer' && course.state === 'running' && (calls ?? next)"
      :id="id"
      :course="course"
      :checkpoint="(calls ?? next)!.key"
    />
    <AsideDialog
      v-if="aside && board!.tags.find((tag) => tag.code === aside)!.set_aside"
      :id="id"
      :code="aside"
      :tag="board!.tags.find((tag) => tag.code === aside)!"
      :opened="course.state === 'opened'"
      @close="aside = null"
    />
    <HappenedDialog v-else-if="aside" :id="id" :code="aside" :course="course" @close="aside = null" />
  </section>
</template>
