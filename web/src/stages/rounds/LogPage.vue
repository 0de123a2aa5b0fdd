<script setup lang="ts">
/** The log: all that was read and all that happened, old values among it. */
import { computed, ref, useId } from "vue";

import ConditionsStrip from "./ConditionsStrip.vue";
import HappenedDialog from "./HappenedDialog.vue";
import MethodDialog from "./MethodDialog.vue";
import LogLine from "./LogLine.vue";
import { byDay, KINDS, soughtIn } from "./log";
import FoldPart from "@/parts/FoldPart.vue";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import type { Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { problemsOf } from "@/shell/api/problems";
import { rightNow } from "@/shell/offline/clock";
import { keep, laneOf, trySending } from "@/shell/outbox";
import { trialChanged, useLog, useMe } from "@/shell/query";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data: log, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useLog(() => props.id);
const scales = computed(() => new Map(props.course.outcomes.map((outcome) => [outcome.name, outcome.scale])));
const entries = computed(() => log.value?.pages.flatMap((page) => page.entries) ?? []);
const readings = computed(() => log.value?.pages[0]?.readings ?? 0);
const kind = ref("");
const sought = ref("");
const seeking = computed(() => Boolean(kind.value || sought.value.trim()));
const shown = computed(() => soughtIn(entries.value, sought.value, kind.value));
const days = computed(() => byDay(shown.value, props.course.zone));
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
const told = useId();
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <h1>Log</h1>
    <p v-if="log" class="mt-1 text-soft">
      {{ readings.toLocaleString("en") }} readings in all. Nothing here is ever changed or deleted; a
      correction stands above what it corrects.
    </p>
    <p v-if="log && !entries.length" class="mt-6">
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
          :aria-describedby="told"
        />
      </label>
      <ProblemText :id="told" :says="says('text') ?? other" />
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
    <div v-if="entries.length" class="no-print mt-5 flex flex-wrap items-center gap-3" role="search">
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
      <p v-if="seeking" class="text-soft" role="status">
        {{ shown.length.toLocaleString("en") }} of {{ entries.length.toLocaleString("en") }}
      </p>
    </div>
    <section class="mt-3" aria-label="Log">
      <FoldPart
        v-for="(one, i) in days"
        :key="`${one.name} ${seeking}`"
        :title="one.name"
        :inside="one.inside"
        :unfolded="seeking || i < 2"
      >
        <ul>
          <LogLine
            v-for="(entry, place) in one.entries"
            :key="place"
            :trial="id"
            :entry="entry"
            :zone="course.zone"
            :scale="scales.get(entry.outcome)"
          />
        </ul>
      </FoldPart>
      <p v-if="hasNextPage" class="mt-4 flex flex-wrap items-center gap-4">
        <button type="button" class="press" :disabled="isFetchingNextPage" @click="fetchNextPage()">
          Earlier entries
        </button>
        <span v-if="seeking" class="text-soft">Sought in what is shown so far.</span>
      </p>
    </section>
    <HappenedDialog v-if="asked === 'happened'" :id="id" :course="course" @close="asked = null" />
    <MethodDialog v-if="asked === 'method'" :id="id" :course="course" @close="asked = null" />
  </section>
</template>
