<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The booth: a quiet page, one step at a time, with nothing of the trial on it. */
import { computed, onMounted, onUnmounted, ref } from "vue";

import BoothCard from "./BoothCard.vue";
import BoothSet from "./BoothSet.vue";
import KnownA from "./KnownA.vue";
import {
  agree,
  answeredIn,
  answersHere,
  boothLane,
  cupFile,
  dropFiles,
  goNoFurther,
  keepBooth,
  keptBooth,
  knownFile,
  lockIn,
  sitDown,
  stockUp,
  type Booth,
  type Judgement,
} from "./booth";
import AskSheet from "@/parts/AskSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import RefusedList from "@/parts/RefusedList.vue";
import { here as myZone, moment } from "@/parts/moments";
import { problemsOf, Unreachable } from "@/shell/api/problems";
import { tell } from "@/shell/arrival";
import { onSettled, send, type Waiting } from "@/shell/outbox";

/** `handed`: on a tablet that goes round; whoever is done gives it on. */
const props = defineProps<{ token: string; handed?: boolean }>();
const emit = defineEmits<{ done: [] }>();
const booth = ref<Booth>();
const says = ref("");
const adult = ref(false);
/** Answers that are on this device alone. */
const here = ref<Waiting[]>([]);
const waiting = computed(() => here.value.filter((row) => !row.refused));
const refused = computed(() => here.value.filter((row) => row.refused));
const rests = ref(0);
let timer = 0;
let looks = 0;
const stopping = ref(false);
/** The session that was gone on to last: the next one begins only when the host says so. */
const session = ref(0);

function show(found: Booth): void {
  booth.value = found;
  keepBooth(props.token, found);
  session.value = Math.max(
    session.value,
    ...found.sets.filter((one) => one.answered).map((one) => one.session),
  );
  void stockUp(props.token, found);
}
/** Not begun yet, or more to come: look again now and then. */
async function lookAgain(): Promise<void> {
  if (
    !booth.value?.stopped &&
    (booth.value?.state === "planned" || (booth.value?.state === "open" && !next.value))
  )
    show(await sitDown(props.token).catch(() => sure(booth.value)));
}
async function stop(): Promise<void> {
  stopping.value = false;
  says.value = "";
  try {
    show(await goNoFurther(props.token));
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  }
}
async function open(): Promise<void> {
  await look();
  given.value = answeredIn(here.value);
  try {
    show(await sitDown(props.token));
  } catch (error) {
    const kept = keptBooth(props.token);
    if (error instanceof Unreachable && kept) booth.value = kept;
    else says.value = sure(problemsOf(error)[0]).says;
  }
  await send(boothLane(props.token));
}
const look = async () => void (here.value = await answersHere(props.token));
const stopHearing = onSettled(() => void look());
/** Something was decided about what was turned down: what was discarded is to be answered again. */
async function decided(): Promise<void> {
  await look();
  given.value = answeredIn(here.value);
  if (booth.value) show(await sitDown(props.token).catch(() => sure(booth.value)));
}
async function takePart(): Promise<void> {
  says.value = "";
  try {
    show(await agree(props.token, adult.value));
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  }
}
const answered = computed(
  () =>
    new Set([
      ...(booth.value?.sets.filter((one) => one.answered).map((one) => one.id) ?? []),
      ...given.value,
    ]),
);
const given = ref<string[]>([]);
/** The stimuli over which A was given by its name on this device. */
const knows = ref<number[]>([]);
const toKnow = computed(
  () =>
    booth.value?.shows_a === true && next.value !== undefined && !knows.value.includes(next.value.stimulus),
);
const next = computed(() => booth.value?.sets.find((one) => !answered.value.has(one.id)));
const number = computed(() => (booth.value && next.value ? booth.value.sets.indexOf(next.value) + 1 : 0));

async function lock(judgement: Judgement): Promise<void> {
  const { codes } = sure(sure(booth.value).sets.find((one) => one.id === judgement.serving));
  given.value.push(judgement.serving);
  if (next.value && next.value.session === session.value && sure(booth.value).pause)
    rest(sure(booth.value).pause);
  // On the device before anything else; the server follows when it can be reached.
  try {
    await lockIn(props.token, judgement, codes.join(", "));
    says.value = "";
  } catch {
    given.value = given.value.filter((one) => one !== judgement.serving);
    rests.value = 0;
    says.value = "This device has no room to keep your answer, or does not allow it. Tell the host.";
    return;
  }
  tell(
    next.value
      ? `Kept and locked; next ${number.value} of ${sure(booth.value).sets.length}: ${next.value.codes.join(", ")}`
      : "Kept and locked; that was the last one.",
  );
  void look();
  void dropFiles(props.token, judgement.serving, codes.length);
}
function rest(seconds: number): void {
  rests.value = seconds;
  window.clearInterval(timer);
  timer = window.setInterval(() => {
    rests.value -= 1;
    if (rests.value <= 0) window.clearInterval(timer);
  }, 1_000);
}
onMounted(() => {
  void open();
  looks = window.setInterval(() => void lookAgain(), 5_000);
});
onUnmounted(() => {
  window.clearInterval(timer);
  window.clearInterval(looks);
  stopHearing();
});
</script>

<template>
  <main
    class="sheet mx-auto flex min-h-dvh flex-col px-4 py-5"
    :class="booth?.material === 'pictures' ? 'max-w-4xl' : 'max-w-xl'"
  >
    <p v-if="booth" class="flex justify-between text-soft">
      <span>Seat {{ booth.number }}</span
      ><span v-if="next && booth.consented">{{ number }} of {{ booth.sets.length }}</span>
    </p>
    <!-- Its line is always there: what comes and goes above the cups would move them under a finger. -->
    <p v-if="booth" role="status" class="min-h-6 text-[0.92rem] leading-6 whitespace-nowrap text-soft">
      <template v-if="waiting.length"
        >{{ waiting.length === 1 ? "1 answer" : `${waiting.length} answers` }} kept on this device<span
          class="hidden sm:inline"
          >, sent by {{ waiting.length === 1 ? "itself" : "themselves" }}</span
        ></template
      >
    </p>
    <RefusedList :rows="refused" host @changed="decided" />
    <ProblemText class="mt-3" :says="says" />
    <template v-if="booth && !booth.consented">
      <h1 class="mt-6">
        {{
          { cups: "Before you taste", sounds: "Before you listen", pictures: "Before you look" }[
            booth.material
          ] ?? "Before you begin"
        }}
      </h1>
      <p class="mt-3 text-[1.1rem]">
        Nobody has to take part, and you may stop at any time. Your answers are kept under a number; ask the
        host to see or erase what is kept of you.
      </p>
      <dl v-if="booth.material === 'cups'" class="mt-4 grid gap-3">
        <div class="border-l-4 border-ink pl-3">
          <dt class="font-bold">May contain</dt>
          <dd>{{ booth.allergens || "nothing was declared; ask the host if you have an allergy" }}</dd>
        </div>
        <div v-if="booth.dose" class="border-l-4 border-ink pl-3">
          <dt class="font-bold">How much</dt>
          <dd>{{ booth.dose }}</dd>
        </div>
      </dl>
      <p v-if="booth.material === 'cups'" class="mt-3 text-soft">
        You may spit out. Rinse with water in between. If anything in it is not for you, do not take part.
      </p>
      <p v-else-if="booth.material === 'sounds'" class="mt-3 text-soft">
        Use headphones if you can; begin softly, and do not change the volume within a set.
      </p>
      <p v-if="booth.break_off" class="mt-3"><b>The panel ends early if:</b> {{ booth.break_off }}</p>
      <label v-if="booth.adults" class="mt-4 flex min-h-12 items-center gap-3"
        ><input v-model="adult" type="checkbox" class="h-6 w-6 flex-none" /> I am an adult; alcohol is
        served</label
      >
      <button class="press press-main mt-6 min-h-[64px] text-[1.15rem]" @click="takePart">
        I have read this and take part
      </button>
    </template>
    <p v-else-if="booth?.stopped" class="m-auto text-[1.3rem]">
      You do not go on. What you answered stays under your number; ask the host if you want it erased.
    </p>
    <div v-else-if="booth?.state === 'planned'" class="m-auto text-center text-[1.3rem]">
      <p v-if="booth.due">It is planned for {{ moment(booth.due, myZone()) }}.</p>
      <p>The panel has not begun yet. Stay on this page.</p>
      <a v-if="booth.due" class="press mt-4" :href="`/api/booth/${token}/date.ics`" download="panel.ics"
        >Into my calendar</a
      >
    </div>
    <div v-else-if="booth && rests > 0 && next" class="m-auto text-center">
      <h1>A pause</h1>
      <p class="mt-2 text-[1.2rem]">{{ booth.material === "cups" ? "Rinse with water." : "Let it fade." }}</p>
      <p class="code mt-4 text-[3.4rem]" role="timer">
        {{ Math.floor(rests / 60) }}:{{ String(rests % 60).padStart(2, "0") }}
      </p>
      <button class="quiet mt-4" @click="rests = 0">I am ready</button>
    </div>
    <div
      v-else-if="booth && next && next.session > session && booth.state === 'open'"
      class="m-auto text-center"
    >
      <h1>Session {{ session + 1 }} is done.</h1>
      <p class="mt-2 text-[1.15rem]">Go on when the host says so.</p>
      <button class="press press-main mt-5 min-h-[64px]" @click="session = next.session">
        Begin session {{ next.session + 1 }}
      </button>
      <button v-if="handed" class="press mt-3 min-h-[64px]" @click="emit('done')">Hand it on</button>
    </div>
    <KnownA
      v-else-if="booth && next && toKnow && booth.state === 'open'"
      :key="next.stimulus"
      :booth="booth"
      :over="next.over"
      :load="() => knownFile(token, next!.stimulus)"
      @known="knows.push(next!.stimulus)"
    />
    <BoothSet
      v-else-if="booth && next && booth.state === 'open'"
      :key="next.id"
      :booth="booth"
      :set="next"
      :load="(place) => cupFile(token, next!.id, place)"
      @lock="lock"
    />
    <BoothCard v-else-if="booth?.card" :token="token" />
    <div v-else-if="booth && booth.consented" class="m-auto text-center">
      <h1>Thank you.</h1>
      <p class="mt-3 text-[1.15rem]">
        {{
          next
            ? "The panel is closed."
            : waiting.length
              ? "All your answers are given; those on this device are sent by themselves, so leave this page open."
              : refused.length
                ? "All other answers are given and locked."
                : "All your answers are given and locked."
        }}
        What it was is told when the host opens the key.
      </p>
      <button v-if="handed" class="press press-main mt-5 min-h-[64px]" @click="emit('done')">
        Hand it on
      </button>
    </div>
    <button
      v-if="booth && booth.consented && next && !booth.stopped && booth.state === 'open'"
      class="quiet mx-auto mt-3 block"
      @click="stopping = true"
    >
      I do not go on
    </button>
    <AskSheet
      v-if="stopping"
      title="Stop here?"
      says="Nobody asks why. What you answered so far stays; no more is asked of you."
      go="I stop here"
      @go="stop"
      @close="stopping = false"
    />
  </main>
</template>
