<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The log: all that was read and all that happened, old values among it. */
import { computed, ref } from "vue";

import ConditionsStrip from "./ConditionsStrip.vue";
import HappenedDialog from "./HappenedDialog.vue";
import MethodDialog from "./MethodDialog.vue";
import { honest, reading } from "@/parts/amounts";
import { moment } from "@/parts/moments";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import type { Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { problemsOf } from "@/shell/api/problems";
import { rightNow } from "@/shell/offline/clock";
import { keep, laneOf, trySending } from "@/shell/outbox";
import { trialChanged, useLog, useMe } from "@/shell/query";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data: log, error } = useLog(() => props.id);
const scales = computed(() => new Map(props.course.outcomes.map((outcome) => [outcome.name, outcome.scale])));

function valueOf(entry: Schemas["LogEntry"], value: number | null): string {
  if (value === null) return "";
  const scale = scales.value.get(entry.outcome);
  return scale ? reading(value, scale) : honest(value, 6);
}
const KINDS: Record<string, string[]> = {
  readings: ["value", "cannot", "withdrawn"],
  notes: ["note"],
  "what went otherwise": [
    "set_aside",
    "left_out",
    "marked",
    "put_back",
    "difference",
    "skipped",
    "no_outcome",
    "split",
    "amended",
  ],
  preparing: ["given", "started", "cycle", "shuffled", "uncovered", "key_look", "sealed"],
};
const kind = ref("");
const sought = ref("");
const shown = computed(() => {
  const words = sought.value.trim().toLowerCase().split(/\s+/).filter(Boolean);
  return (log.value?.entries ?? []).filter((entry) => {
    if (kind.value && !sure(KINDS[kind.value]).includes(entry.what)) return false;
    const text = [
      entry.code,
      entry.accident,
      entry.outcome,
      entry.checkpoint,
      entry.reason,
      entry.words,
      entry.by,
      WHAT[entry.what] ?? "",
      entry.source,
    ]
      .join(" ")
      .toLowerCase();
    return words.every((word) => text.includes(word));
  });
});
const note = ref("");
const asked = ref<"happened" | "method" | null>(null);
const photo = ref<File | null>(null);
const { data: me } = useMe();
const mayTell = computed(() => props.course.state !== "draft" && props.course.role !== "viewer");
const { busy, says, other, through, asks, insist, insists } = useAct(["text"]);
const waits = ref(false);
const write = () =>
  through(async () => {
    if (!me.value) return;
    const [id, person] = [crypto.randomUUID(), me.value.id];
    const whose = {
      lane: laneOf(props.id, person),
      trial: props.id,
      person,
      given_at: rightNow().toISOString(),
    };
    const [picture, text] = [photo.value, note.value];
    waits.value = !(await trySending({
      ...whose,
      id,
      called: "A note",
      kind: "note",
      body: { id, text, working: "" },
      insists: insists(),
    }));
    [note.value, photo.value] = ["", null];
    if (picture)
      await keep({
        ...whose,
        id: crypto.randomUUID(),
        called: "A photo",
        kind: "photo",
        body: { note: id },
        file: picture,
      });
    await trialChanged(props.id, ["log"]);
  });
const WHAT: Record<string, string> = {
  set_aside: "left out altogether",
  left_out: "left out from then on",
  marked: "kept, and marked",
  put_back: "put back",
  no_outcome: "was withdrawn",
  split: "is measured in another way from then on",
  key_look: "looked at the key to prepare the samples; their rounds count as open from here on",
  sealed: "Plan sealed, codes drawn",
  started: "Exposure started",
  opened: "Key opened",
  amended: "Plan amended",
  difference: "was not held equal",
  skipped: "was skipped",
  cycle: "A cycle was counted",
  given: "Given",
  shuffled: "Shuffled by hand: nobody knows the key",
  uncovered: "The covers came off",
};
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <p class="text-soft">{{ course.title }}</p>
    <h1>Log</h1>
    <p v-if="log" class="mt-1 text-soft">
      {{ log.readings.toLocaleString("en") }} readings in all. Nothing here is ever changed or deleted; a
      correction stands above what it corrects.
    </p>
    <p v-if="log && !log.entries.length" class="mt-6">
      Nothing has happened yet. The log begins when the plan is sealed.
    </p>
    <form v-if="mayTell" class="no-print mt-4 grid max-w-3xl gap-2" @submit.prevent="write">
      <label
        ><span class="mb-1 block text-[0.9rem] text-soft"
          >What happened? Typed, or spoken with the keyboard’s microphone.</span
        ><textarea
          v-model="note"
          class="field block"
          rows="2"
          :aria-invalid="says('text') ? 'true' : undefined"
        />
      </label>
      <ProblemText :says="says('text') ?? other" />
      <p v-if="waits" class="text-soft" role="status">Kept on this device; it is sent by itself.</p>
      <p class="flex flex-wrap items-center gap-2">
        <button class="press press-small" :disabled="busy || !note.trim()">Write it into the log</button>
        <SaidAnyway :asks="asks" :busy="busy" inline @insist="insist" />
        <label class="press press-small"
          ><input
            type="file"
            accept="image/*"
            class="sr-only"
            aria-label="With a photo"
            @change="photo = ($event.target as HTMLInputElement).files?.[0] ?? null"
          />{{ photo ? "With this photo" : "With a photo" }}</label
        >
        <button type="button" class="quiet" @click="asked = 'happened'">
          Something happened to {{ course.sample_words }}
        </button>
        <button
          v-if="course.may_lead && course.state !== 'opened'"
          type="button"
          class="quiet"
          @click="asked = 'method'"
        >
          A way of measuring failed
        </button>
      </p>
    </form>
    <ConditionsStrip
      v-if="course.state !== 'draft' && (course.role !== 'viewer' || course.opened_at)"
      :id="id"
      :course="course"
    />
    <div v-if="log?.entries.length" class="no-print mt-5 flex flex-wrap items-center gap-3" role="search">
      <label class="min-w-48 grow sm:max-w-96"
        ><span class="sr-only">Search the log</span
        ><input
          v-model="sought"
          class="field"
          type="search"
          placeholder="a code, a word, a name"
          autocomplete="off"
      /></label>
      <label
        ><span class="sr-only">Show</span
        ><select v-model="kind" class="field">
          <option value="">everything</option>
          <option v-for="(_, name) in KINDS" :key="name" :value="name">{{ name }}</option>
        </select></label
      >
      <p v-if="kind || sought.trim()" class="text-soft" role="status">
        {{ shown.length.toLocaleString("en") }} of {{ log.entries.length.toLocaleString("en") }}
      </p>
    </div>
    <div class="mt-3 overflow-x-auto" tabindex="0" role="region" aria-label="Log">
      <table v-if="log?.entries.length" class="figures">
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col">Sample</th>
            <th scope="col">What</th>
            <th scope="col">Value</th>
            <th scope="col">By</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(entry, i) in shown" :key="i" :class="{ 'text-soft': entry.replaced }">
            <td class="whitespace-nowrap">{{ moment(entry.at, course.zone) }}</td>
            <td class="code">{{ entry.code }}</td>
            <td>
              <template v-if="WHAT[entry.what]"
                >{{
                  ["difference", "no_outcome", "split"].includes(entry.what)
                    ? `${entry.outcome} `
                    : entry.what === "skipped"
                      ? `${entry.checkpoint} `
                      : ""
                }}{{ WHAT[entry.what]
                }}<template v-if="entry.accident"
                  >; {{ entry.accident
                  }}{{ entry.since ? ` on ${moment(entry.since, course.zone)}` : "" }}</template
                ><template v-else-if="entry.since"> ({{ moment(entry.since, course.zone) }})</template
                ><template v-if="entry.reason && entry.what !== 'sealed'"
                  >: {{ entry.reason }}</template
                ></template
              >
              <template v-else-if="entry.what === 'note'"
                >{{ entry.words
                }}<span v-if="entry.reason" class="block text-[0.92rem] text-soft">{{ entry.reason }}</span
                ><span v-if="entry.photos.length" class="mt-1 flex gap-2"
                  ><a
                    v-for="one in entry.photos"
                    :key="one"
                    :href="`/api/photos/${one}.jpg`"
                    target="_blank"
                    rel="noopener"
                    ><img
                      :src="`/api/photos/${one}.jpg?small=true`"
                      alt="Photo of this note"
                      class="h-24 bg-ground"
                      loading="lazy" /></a></span
              ></template>
              <template v-else>
                {{ entry.outcome }}, {{ entry.checkpoint }}
                <template v-if="entry.what === 'cannot'"> could not be scored: {{ entry.reason }}</template>
                <template v-else-if="entry.what === 'withdrawn'"> taken back</template>
                <template v-else-if="entry.reason">, {{ entry.reason }}</template
                ><template v-if="entry.source">, {{ entry.source }}</template>
              </template>
            </td>
            <td class="whitespace-nowrap">
              <span v-if="entry.words && entry.what !== 'note'" class="block max-w-72 whitespace-normal">{{
                entry.words
              }}</span>
              <s v-if="entry.replaced">{{ valueOf(entry, entry.value) }}</s>
              <template v-else>{{ valueOf(entry, entry.value) }}</template>
              <span v-if="entry.old_value !== null && !entry.replaced" class="text-soft"
                >, was {{ valueOf(entry, entry.old_value) }}</span
              >
              <span v-if="entry.what === 'sealed'" class="code font-normal" :title="entry.reason"
                >{{ entry.reason.slice(0, 12) }}…</span
              >
            </td>
            <td class="whitespace-nowrap">{{ entry.by }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <HappenedDialog v-if="asked === 'happened'" :id="id" :course="course" @close="asked = null" />
    <MethodDialog v-if="asked === 'method'" :id="id" :course="course" @close="asked = null" />
  </section>
</template>
