<script setup lang="ts">
/** The booth: a quiet page, one step at a time, with nothing of the trial on it. */
import { computed, onMounted, onUnmounted, ref } from "vue";

import BoothSet from "./BoothSet.vue";
import { agree, cupFile, discard, dropFiles, goNoFurther, keepOf, keptOf, sendAgain, sendWaiting, sitDown, stockUp, type Booth, type Judgement } from "./booth";
import AskSheet from "@/parts/AskSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { problemsOf, Unreachable } from "@/shell/api/problems";

/** `handed`: on a tablet that goes round; whoever is done gives it on. */
const props = defineProps<{ token: string; handed?: boolean }>();
const emit = defineEmits<{ done: [] }>();
const booth = ref<Booth>();
const says = ref("");
const adult = ref(false);
const waiting = ref(keptOf(props.token).waiting);
const refused = ref(keptOf(props.token).refused);
const rests = ref(0);
let timer = 0;
let tries = 0;
let looks = 0;
const stopping = ref(false);
/** The session that was gone on to last: the next one begins only when the host says so. */
const session = ref(0);

function show(found: Booth): void {
  booth.value = found;
  keepOf(props.token, { ...keptOf(props.token), booth: found });
  session.value = Math.max(session.value, ...found.sets.filter((one) => one.answered).map((one) => one.session));
  void stockUp(props.token, found);
}
/** Not begun yet, or more to come: look again now and then. */
async function lookAgain(): Promise<void> {
  if (!booth.value?.stopped && (booth.value?.state === "planned" || (booth.value?.state === "open" && !next.value))) show(await sitDown(props.token).catch(() => booth.value!));
}
async function stop(): Promise<void> {
  stopping.value = false;
  says.value = "";
  try {
    show(await goNoFurther(props.token));
  } catch (error) {
    says.value = problemsOf(error)[0]!.says;
  }
}
async function open(): Promise<void> {
  try {
    show(await sitDown(props.token));
  } catch (error) {
    const kept = keptOf(props.token).booth;
    if (error instanceof Unreachable && kept) booth.value = kept;
    else says.value = problemsOf(error)[0]!.says;
  }
  await send();
}
async function send(): Promise<void> {
  window.clearTimeout(tries);
  if (!(await sendWaiting(props.token))) tries = window.setTimeout(() => void send(), 4_000);
  look();
}
/** What of the answers is still on this device. */
function look(): void {
  const kept = keptOf(props.token);
  waiting.value = kept.waiting;
  refused.value = kept.refused;
}
async function again(id: string): Promise<void> {
  sendAgain(props.token, id);
  look();
  await send();
}
async function letGo(id: string): Promise<void> {
  discard(props.token, id);
  look();
  given.value = keptOf(props.token).waiting.map((one) => one.serving);
  show(await sitDown(props.token).catch(() => booth.value!));
}
/** The codes of the cups of an answer, by which its assessor knows it. */
const cupsOf = (serving: string) => booth.value?.sets.find((one) => one.id === serving)?.codes.join(", ") ?? "a set that was taken away";
async function takePart(): Promise<void> {
  says.value = "";
  try {
    show(await agree(props.token, adult.value));
  } catch (error) {
    says.value = problemsOf(error)[0]!.says;
  }
}
const answered = computed(() => new Set([...(booth.value?.sets.filter((one) => one.answered).map((one) => one.id) ?? []), ...given.value]));
const given = ref<string[]>([...keptOf(props.token).waiting, ...keptOf(props.token).refused.map((one) => one.judgement)].map((one) => one.serving));
const next = computed(() => booth.value?.sets.find((one) => !answered.value.has(one.id)));
const number = computed(() => (booth.value && next.value ? booth.value.sets.indexOf(next.value) + 1 : 0));

function lock(judgement: Judgement): void {
  // On the device before anything else; the server follows when it can be reached.
  const kept = keptOf(props.token);
  keepOf(props.token, { ...kept, waiting: [...kept.waiting, judgement] });
  waiting.value = keptOf(props.token).waiting;
  given.value.push(judgement.serving);
  void dropFiles(props.token, judgement.serving, booth.value!.sets.find((one) => one.id === judgement.serving)!.codes.length);
  if (next.value && next.value.session === session.value && booth.value!.pause) {
    rests.value = booth.value!.pause;
    window.clearInterval(timer);
    timer = window.setInterval(() => {
      rests.value -= 1;
      if (rests.value <= 0) window.clearInterval(timer);
    }, 1_000);
  }
  void send();
}
onMounted(() => {
  void open();
  looks = window.setInterval(() => void lookAgain(), 5_000);
  window.addEventListener("online", send);
});
onUnmounted(() => {
  window.clearInterval(timer);
  window.clearTimeout(tries);
  window.clearInterval(looks);
  window.removeEventListener("online", send);
});
</script>

<template>
  <main class="sheet mx-auto flex min-h-dvh flex-col px-4 py-5" :class="booth?.material === 'pictures' ? 'max-w-4xl' : 'max-w-xl'">
    <p v-if="booth" class="flex justify-between text-soft"><span>Seat {{ booth.number }}</span><span v-if="next && booth.consented">{{ number }} of {{ booth.sets.length }}</span></p>
    <p v-if="waiting.length" role="status" class="mt-2 border-l-4 border-ink pl-3">{{ waiting.length === 1 ? "Your answer is" : `${waiting.length} answers are` }} kept on this device and sent by itself.</p>
    <section v-if="refused.length" class="mt-3 border-2 border-ink p-3" aria-label="Answers that were not taken">
      <div v-for="one in refused" :key="one.judgement.id" class="grid gap-2" role="alert">
        <p><b>Your answer on <span class="code">{{ cupsOf(one.judgement.serving) }}</span> was not taken.</b> {{ one.says }} It is still on this device; tell the host.</p>
        <p class="flex flex-wrap gap-3"><button class="press press-small" @click="again(one.judgement.id)">Send it again</button><button class="quiet" @click="letGo(one.judgement.id)">Discard it</button></p>
      </div>
    </section>
    <ProblemText class="mt-3" :says="says" />
    <template v-if="booth && !booth.consented">
      <h1 class="mt-6">{{ { cups: "Before you taste", sounds: "Before you listen", pictures: "Before you look" }[booth.material] ?? "Before you begin" }}</h1>
      <p class="mt-3 text-[1.1rem]">Nobody has to take part, and you may stop at any time. Your answers are kept under a number; ask the host to see or erase what is kept of you.</p>
      <dl v-if="booth.material === 'cups'" class="mt-4 grid gap-3">
        <div class="border-l-4 border-ink pl-3"><dt class="font-bold">May contain</dt><dd>{{ booth.allergens || "nothing was declared; ask the host if you have an allergy" }}</dd></div>
        <div v-if="booth.dose" class="border-l-4 border-ink pl-3"><dt class="font-bold">How much</dt><dd>{{ booth.dose }}</dd></div>
      </dl>
      <p v-if="booth.material === 'cups'" class="mt-3 text-soft">You may spit out. Rinse with water in between. If anything in it is not for you, do not take part.</p>
      <p v-else-if="booth.material === 'sounds'" class="mt-3 text-soft">Use headphones if you can; begin softly, and do not change the volume within a set.</p>
      <p v-if="booth.break_off" class="mt-3"><b>The panel ends early if:</b> {{ booth.break_off }}</p>
      <label v-if="booth.adults" class="mt-4 flex min-h-12 items-center gap-3"><input v-model="adult" type="checkbox" class="h-6 w-6 flex-none" /> I am an adult; alcohol is served</label>
      <button class="press press-main mt-6 min-h-[64px] text-[1.15rem]" @click="takePart">I have read this and take part</button>
    </template>
    <p v-else-if="booth?.stopped" class="m-auto text-[1.3rem]">You do not go on. What you answered stays under your number; ask the host if you want it erased.</p>
    <p v-else-if="booth?.state === 'planned'" class="m-auto text-[1.3rem]">The panel has not begun yet. Stay on this page.</p>
    <div v-else-if="booth && rests > 0 && next" class="m-auto text-center">
      <h1>A pause</h1>
      <p class="mt-2 text-[1.2rem]">{{ booth.material === "cups" ? "Rinse with water." : "Let it fade." }}</p>
      <p class="code mt-4 text-[3.4rem]" role="timer">{{ Math.floor(rests / 60) }}:{{ String(rests % 60).padStart(2, "0") }}</p>
      <button class="quiet mt-4" @click="rests = 0">I am ready</button>
    </div>
    <div v-else-if="booth && next && next.session > session && booth.state === 'open'" class="m-auto text-center">
      <h1>Session {{ session + 1 }} is done.</h1>
      <p class="mt-2 text-[1.15rem]">Go on when the host says so.</p>
      <button class="press press-main mt-5 min-h-[64px]" @click="session = next.session">Begin session {{ next.session + 1 }}</button>
      <button v-if="handed" class="press mt-3 min-h-[64px]" @click="emit('done')">Hand it on</button>
    </div>
    <BoothSet v-else-if="booth && next && booth.state === 'open'" :key="next.id" :booth="booth" :set="next" :load="(place) => cupFile(token, next!.id, place)" @lock="lock" />
    <div v-else-if="booth && booth.consented" class="m-auto text-center">
      <h1>Thank you.</h1>
      <p class="mt-3 text-[1.15rem]">{{ next ? "The panel is closed." : waiting.length ? "All your answers are given; those on this device are sent by themselves, so leave this page open." : refused.length ? "All other answers are given and locked." : "All your answers are given and locked." }} What it was is told when the host opens the key.</p>
      <button v-if="handed" class="press press-main mt-5 min-h-[64px]" @click="emit('done')">Hand it on</button>
    </div>
    <button v-if="booth && booth.consented && next && !booth.stopped && booth.state === 'open'" class="quiet mx-auto mt-3 block" @click="stopping = true">I do not go on</button>
    <AskSheet v-if="stopping" title="Stop here?" says="Nobody asks why. What you answered so far stays; no more is asked of you." go="I stop here" @go="stop" @close="stopping = false" />
  </main>
</template>
