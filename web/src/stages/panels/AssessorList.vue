<script setup lang="ts">
import { copyText } from "@/parts/device";
import { sure } from "@/parts/sure";
/** Who judges: names or initials, how used to it they are, whether they are blind, and their links. */
import { computed, ref } from "vue";

import SeatActs, { type SeatAct } from "./SeatActs.vue";
import SeatLink from "./SeatLink.vue";
import { peopleIn } from "./people";
import AskSheet from "@/parts/AskSheet.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TallyStrokes from "@/parts/TallyStrokes.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useWide } from "@/shell/wide";
import { useAct } from "@/shell/act";
import WideTable from "@/parts/WideTable.vue";

type Assessor = Schemas["AssessorOut"];
const props = defineProps<{ panel: Schemas["PanelOut"]; course: Schemas["CourseOut"] }>();
const emit = defineEmits<{ changed: [panel: Schemas["PanelOut"]] }>();
const names = ref("");
const experience = ref<"naive" | "regular" | "trained">("naive");
const { busy, other, through } = useAct([]);
const add = () =>
  through(async () => {
    const assessors = peopleIn(names.value, experience.value);
    if (!assessors.length) return;
    emit(
      "changed",
      await answer(
        api.POST("/api/panels/{panel_id}/assessors", {
          params: { path: { panel_id: props.panel.id } },
          body: { assessors },
        }),
      ),
    );
    names.value = "";
  });
const earlier = ref<Schemas["EarlierAssessor"][]>([]);
async function recall(): Promise<void> {
  earlier.value = (await answer(api.GET("/api/earlier-assessors"))).assessors.filter(
    (one) => !props.panel.assessors.some((who) => who.name === one.name),
  );
}
const again = (one: Schemas["EarlierAssessor"]) =>
  through(async () => {
    const assessors = [{ name: one.name, experience: one.experience, blind: true, address: "" }];
    emit(
      "changed",
      await answer(
        api.POST("/api/panels/{panel_id}/assessors", {
          params: { path: { panel_id: props.panel.id } },
          body: { assessors },
        }),
      ),
    );
    earlier.value = earlier.value.filter((other) => other.name !== one.name);
  });
const note = (who: Assessor, about: Partial<Schemas["AboutAssessor"]>) =>
  through(async () => {
    const as = { blind: null, left_out: null, free: false, new_link: false, move: false, address: null };
    const body = { ...as, erase: false, ...about };
    emit(
      "changed",
      await answer(
        api.POST("/api/assessors/{assessor_id}", { params: { path: { assessor_id: who.id } }, body }),
      ),
    );
  });
/** Whom something is asked about before it is done. */
const asked = ref<{ who: Assessor; what: "leave" | "erase" | "link" } | null>(null);
/** Who counts is fixed when the key opens. */
const fixed = computed(() => props.panel.opened_at !== null);
/** The seat whose code to move to another phone is read out. */
const moving = ref("");
const mover = computed(() => props.panel.assessors.find((one) => one.id === moving.value));
const letMove = (who: Assessor) => {
  moving.value = who.id;
  return note(who, { move: true });
};
const inThrees = (code: string) => `${code.slice(0, 3)} ${code.slice(3)}`;
/** Names that two people on the list share: each counts by themselves, but nobody could tell them apart. */
const alike = computed(() => {
  const all = props.panel.assessors.map((one) => one.name.trim().toLowerCase());
  return [
    ...new Set(
      props.panel.assessors
        .map((one) => one.name)
        .filter((name, i) => all.indexOf(sure(all[i])) !== i && name),
    ),
  ];
});
const leave = (who: Assessor) => {
  if (who.left_out) void note(who, { left_out: "" });
  else asked.value = { who, what: "leave" };
};
function go(reason: string): void {
  const { who, what } = sure(asked.value);
  asked.value = null;
  if (what === "link") void note(who, { new_link: true });
  else void note(who, what === "leave" ? { left_out: reason } : { erase: true });
}
/** What there is to know of somebody, in a line. */
const USED = { naive: "never did it", regular: "now and then", trained: "trained" };
const many = (n: number, one: string, several: string) => (n === 1 ? one : `${n} ${several}`);
const notesOn = (who: Assessor) =>
  [
    USED[who.experience as keyof typeof USED],
    props.panel.state === "open" && !who.consented && "not here yet",
    who.stopped && "did not go on",
    who.spilt && many(who.spilt, "a set was spilt", "sets were spilt"),
    who.late && many(who.late, "one answer came too late to count", "answers came too late to count"),
    who.left_out && `does not count: ${who.left_out}`,
    who.address && `${who.told_at ? "written to" : "will be written to"} at ${who.address}`,
  ]
    .filter(Boolean)
    .join("; ");
function act(who: Assessor, what: SeatAct): void {
  if (what === "move") void letMove(who);
  else if (what === "free") void note(who, { free: true });
  else if (what === "leave") leave(who);
  else asked.value = { who, what };
}
const wide = useWide();
const linkOf = (who: Assessor) => window.location.origin + who.link;
const seatAddress = `${window.location.host}/seat`;
const copied = ref("");
const shown = ref<Assessor | null>(null);
async function copy(who: Assessor): Promise<void> {
  await copyText(linkOf(who));
  copied.value = who.id;
}
</script>

<template>
  <div>
    <h2>Who judges</h2>
    <p v-if="alike.length" class="mt-1 border-l-4 border-ink pl-3">
      Two are called {{ alike.join(", ") }}. They count as two people; a surname or a number tells them apart.
    </p>
    <p v-if="fixed" class="mt-1 text-soft">The key is open: who counts was fixed with that.</p>
    <form
      v-if="course.may_lead && panel.state !== 'closed'"
      class="no-print mt-2 grid items-end gap-3 sm:grid-cols-[minmax(0,1fr)_10rem_auto]"
      @submit.prevent="add"
    >
      <label class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft"
          >Names, with commas between; an address beside a name is written to of the day</span
        ><input v-model="names" class="field" autocomplete="off"
      /></label>
      <label class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">How used to it</span
        ><select v-model="experience" class="field">
          <option value="naive">never did it</option>
          <option value="regular">now and then</option>
          <option value="trained">trained</option>
        </select></label
      >
      <button class="press" :disabled="busy || !names.trim()">Add them</button>
    </form>
    <details v-if="course.may_lead && panel.state !== 'closed'" class="no-print mt-1" @toggle="recall">
      <summary class="quiet inline-flex items-center">Who judged before</summary>
      <p v-if="!earlier.length" class="mt-1 text-soft">Nobody else has judged in a panel of yours.</p>
      <p class="mt-1 flex flex-wrap gap-2">
        <button
          v-for="one in earlier"
          :key="one.name"
          type="button"
          class="press press-small"
          :disabled="busy"
          @click="again(one)"
        >
          {{ one.name }}, {{ one.panels === 1 ? "1 panel" : `${one.panels} panels` }}
        </button>
      </p>
    </details>
    <ProblemText class="mt-2" :says="other" />
    <WideTable v-if="panel.assessors.length && wide" label="Assessors" class="mt-3">
      <table class="figures">
        <thead>
          <tr>
            <th scope="col">Seat</th>
            <th scope="col">Who</th>
            <th scope="col">Answers</th>
            <th v-if="course.may_lead" scope="col">Link</th>
            <th v-if="course.may_lead" scope="col">Blind</th>
            <th v-if="course.may_lead" scope="col">What to note</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="who in panel.assessors" :key="who.id">
            <td class="code">{{ who.number }}</td>
            <td class="min-w-32">
              {{ who.name }}<span class="block text-[0.9rem] text-soft">{{ notesOn(who) }}</span>
            </td>
            <td>
              <TallyStrokes
                v-if="who.of"
                :solid="who.done"
                :rest="who.of - who.done"
                :label="`${who.done} of ${who.of} answers given`"
              />
            </td>
            <td v-if="course.may_lead" class="whitespace-nowrap">
              <SeatLink :who="who" :copied="copied === who.id" @copy="copy(who)" @show="shown = who" />
            </td>
            <td v-if="course.may_lead">
              <input
                type="checkbox"
                class="h-6 w-6"
                :checked="who.blind"
                :aria-label="`${who.name} was blind`"
                :disabled="who.erased || fixed"
                @change="note(who, { blind: !who.blind })"
              />
            </td>
            <td v-if="course.may_lead">
              <SeatActs
                :who="who"
                :open="panel.state !== 'closed'"
                :fixed="fixed"
                @act="(what) => act(who, what)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </WideTable>
    <!-- On the phone in the hand that pours: who sits where and how far they are; the rest a tap further. -->
    <ul
      v-else-if="panel.assessors.length"
      role="list"
      aria-label="Assessors"
      class="mt-3 border-t border-line"
    >
      <li v-for="who in panel.assessors" :key="who.id" class="border-b border-line">
        <details>
          <summary
            class="grid min-h-14 cursor-pointer grid-cols-[2rem_minmax(0,1fr)_auto] items-center gap-3 py-2"
            :aria-label="`Seat ${who.number}, ${who.name}`"
          >
            <b class="code text-[1.25rem]">{{ who.number }}</b><span class="min-w-0"
              >{{ who.name }}<span class="block text-[0.9rem] text-soft">{{ notesOn(who) }}</span></span
            ><span v-if="who.of && who.done === who.of && who.of > 5" class="font-bold">done</span
            ><TallyStrokes
              v-else-if="who.of"
              :solid="who.done"
              :rest="who.of - who.done"
              :label="`${who.done} of ${who.of} answers given`"
            />
          </summary>
          <div v-if="course.may_lead" class="pb-3 pl-11">
            <SeatLink :who="who" :copied="copied === who.id" @copy="copy(who)" @show="shown = who" />
            <label class="flex min-h-11 items-center gap-3"
              ><input
                type="checkbox"
                class="h-6 w-6"
                :checked="who.blind"
                :aria-label="`${who.name} was blind`"
                :disabled="who.erased || fixed"
                @change="note(who, { blind: !who.blind })"
              />
              was blind</label
            >
            <SeatActs
              :who="who"
              :open="panel.state !== 'closed'"
              :fixed="fixed"
              @act="(what) => act(who, what)"
            />
          </div>
        </details>
      </li>
    </ul>
    <DialogSheet
      :open="shown !== null"
      :title="shown ? `Seat ${shown.number}, ${shown.name}` : ''"
      @close="shown = null"
    >
      <template v-if="shown"
        ><img
          :src="`/api/assessors/${shown.id}/qr.svg`"
          :alt="`QR code of the link of ${shown.name}`"
          class="mx-auto mt-3 w-72 max-w-full"
        />
        <p class="mt-2 text-center">Read with their own phone; the link opens on one device.</p>
        <div class="mt-3 flex justify-center">
          <button type="button" class="press" @click="shown = null">Close</button>
        </div></template
      >
    </DialogSheet>
    <DialogSheet
      :open="!!mover?.move"
      :title="mover ? `Seat ${mover.number} moves to another phone` : ''"
      @close="moving = ''"
    >
      <template v-if="mover">
        <p class="mt-2">
          On the other phone, open <b>{{ seatAddress }}</b> and type:
        </p>
        <p class="code my-4 text-center text-[3rem]">{{ inThrees(mover.move) }}</p>
        <p>It works once, within a quarter of an hour. What was answered stays.</p>
        <div class="mt-3 flex justify-center">
          <button type="button" class="press" @click="moving = ''">Done</button>
        </div>
      </template>
    </DialogSheet>
    <AskSheet
      v-if="asked?.what === 'leave'"
      :title="`Leave ${asked.who.name} out?`"
      says="The answers stay; the result is told without them and with everybody counted. Who did not come leaves their cups to who comes late."
      label="Why do they not count?"
      go="Leave out"
      @go="go"
      @close="asked = null"
    />
    <AskSheet
      v-else-if="asked?.what === 'link'"
      :title="`A new link for ${asked.who.name}?`"
      says="The old one leads nowhere any more; what was answered stays. Hand the new one over yourself."
      go="Make a new link"
      @go="go"
      @close="asked = null"
    />
    <AskSheet
      v-else-if="asked"
      :title="`Erase ${asked.who.name}?`"
      :says="`The name and the link go for good. The answers stay under number ${asked.who.number}.`"
      go="Erase the name"
      @go="go"
      @close="asked = null"
    />
  </div>
</template>
