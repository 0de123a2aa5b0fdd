<script setup lang="ts">
/** Saying of photos which sample and look they show, that one shows a clock, or that they are not wanted. */
import { computed, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { momentIn } from "@/parts/localMoment";
import { moment } from "@/parts/moments";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";
import { BOARD, asked, type Dropped } from "./tray";

const props = defineProps<{ id: string; photos: Dropped[]; course: Schemas["CourseOut"] }>();
const emit = defineEmits<{ done: []; close: [] }>();
const one = computed(() => (props.photos.length === 1 ? props.photos[0] : undefined));
/** What all of them are known to be already. */
const alike = (part: "code" | "checkpoint") => {
  const all = new Set(props.photos.map((photo) => photo[part]));
  return all.size === 1 ? ([...all][0] ?? "") : "";
};
const code = ref(alike("code") === BOARD ? "" : alike("code"));
const board = ref(alike("code") === BOARD);
const look = ref(alike("checkpoint"));
const shows = ref("");
const clockAsked = ref(false);
const mayBe = computed(() => [...new Set(props.photos.flatMap((photo) => photo.may_be))]);
const { busy, says, other, through } = useAct(["code", "checkpoint", "clock"]);
const ids = computed(() => props.photos.map((photo) => photo.id));
const say = (body: { code?: string; checkpoint?: string; clock?: string | null }) =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/tray/say", {
        params: { path: { trial_id: props.id } },
        body: { code: "", checkpoint: "", clock: null, ...body, photos: ids.value },
      }),
    );
    emit("done");
  });
const deal = () => say({ code: board.value ? BOARD : code.value.trim(), checkpoint: look.value });
const throwOut = () =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/tray/out", {
        params: { path: { trial_id: props.id } },
        body: { photos: ids.value },
      }),
    );
    emit("done");
  });
</script>

<template>
  <DialogSheet
    open
    wide
    :title="one ? 'What does it show?' : `${photos.length} photos`"
    @close="emit('close')"
  >
    <p v-for="sentence in asked(photos)" :key="sentence" class="mt-1">{{ sentence }}</p>
    <template v-if="one">
      <p v-if="one.taken_at" class="text-soft">
        Taken {{ moment(one.taken_at, course.zone) }} by the clock that is known.
      </p>
      <img
        :src="`/api/tray/${one.id}.jpg`"
        alt="The photo"
        :width="one.width"
        :height="one.height"
        class="mt-3 max-h-[46dvh] w-full bg-ground object-contain"
      />
    </template>
    <form class="mt-4 grid gap-4 sm:grid-cols-2" @submit.prevent="clockAsked ? undefined : deal()">
      <template v-if="clockAsked">
        <LabelledField
          v-model="shows"
          class="sm:col-span-2"
          label="What time does the clock in it show?"
          type="datetime-local"
          :says="says('clock')"
          hint="By your own clock here. All photos of that camera are then dated by it."
        />
      </template>
      <template v-else>
        <div>
          <LabelledField
            v-model="code"
            label="Sample"
            :says="says('code')"
            :hint="board ? 'The whole board' : 'The digits on its tag'"
          />
          <p class="mt-2 flex flex-wrap gap-2">
            <button
              v-for="maybe in mayBe"
              :key="maybe"
              type="button"
              class="press press-small code"
              @click="((code = maybe), (board = false))"
            >
              {{ maybe }}
            </button>
            <label class="flex min-h-11 items-center gap-2"
              ><input v-model="board" type="checkbox" class="h-6 w-6" /> the whole board</label
            >
          </p>
        </div>
        <div>
          <label for="deal-look" class="mb-1 block font-bold">Look</label>
          <select id="deal-look" v-model="look" class="field">
            <option value="">by its moment</option>
            <option v-for="stop in course.checkpoints" :key="stop.key" :value="stop.key">
              {{ stop.name }}
            </option>
          </select>
          <ProblemText :says="says('checkpoint')" />
        </div>
      </template>
      <ProblemText class="sm:col-span-2" :says="other" />
      <p class="flex flex-wrap gap-3 sm:col-span-2">
        <button
          v-if="clockAsked"
          type="button"
          class="press press-main"
          :disabled="busy || !shows"
          @click="say({ clock: momentIn(shows) })"
        >
          Set that camera right</button
        ><button v-else class="press press-main" :disabled="busy || (!code.trim() && !board && !look)">
          {{ one ? "It shows that" : "They show that" }}</button
        ><button v-if="one?.taken_at && !clockAsked" type="button" class="press" @click="clockAsked = true">
          It shows a clock</button
        ><button type="button" class="quiet" :disabled="busy" @click="throwOut">
          {{ one ? "Throw it out" : "Throw them out" }}</button
        ><button type="button" class="quiet" @click="emit('close')">Leave it open</button>
      </p>
    </form>
  </DialogSheet>
</template>
