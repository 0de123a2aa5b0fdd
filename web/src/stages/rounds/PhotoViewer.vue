<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** A photo seen large, or against another one: side by side, or one laid over the other. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import SaidAnyway from "@/parts/SaidAnyway.vue";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

type Photo = Schemas["PhotoOut"];
const props = defineProps<{ id: string; photo: Photo; photos: Photo[]; course: Schemas["CourseOut"] }>();
const emit = defineEmits<{ close: [] }>();
const big = (photo: Photo) => `/api/photos/${photo.id}.jpg`;
const lookName = (photo: Photo) =>
  props.course.checkpoints.find((stop) => stop.key === photo.checkpoint)?.name ?? "";
const nameOf = (photo: Photo) => {
  if (photo.outcome)
    return `${props.course.outcomes.find((one) => one.key === photo.outcome)?.name ?? "Level"} ${photo.level}`;
  if (photo.note) return "From the log";
  return `${photo.code || "Whole board"}, ${lookName(photo)}`;
};
/** First the same sample at other moments, then other samples at the same moment, then all else. */
const others = computed(() => {
  const near = (one: Photo) =>
    one.code === props.photo.code && !one.outcome ? 0 : one.checkpoint === props.photo.checkpoint ? 1 : 2;
  return props.photos.filter((one) => one.id !== props.photo.id).sort((a, b) => near(a) - near(b));
});
const against = ref("");
const other = computed(() => others.value.find((one) => one.id === against.value));
const over = ref(false);
const share = ref(50);
const { data: light } = useQuery({
  queryKey: keys.light(
    computed(() => props.photo.id),
    against,
  ),
  enabled: computed(() => Boolean(against.value)),
  queryFn: () =>
    answer(
      api.GET("/api/photos/{photo_id}/against/{other_id}", {
        params: { path: { photo_id: props.photo.id, other_id: against.value } },
      }),
    ),
});
const away = ref(false);
const reason = ref("");
const { busy, says, other: wrong, through, asks, insist, said } = useAct(["reason"]);
const take = () =>
  through(async () => {
    await answer(
      api.POST("/api/photos/{photo_id}/away", {
        ...said(),
        params: { path: { photo_id: props.photo.id } },
        body: { reason: reason.value },
      }),
    );
    await trialChanged(props.id, ["photos", "log"]);
    emit("close");
  });
</script>

<template>
  <DialogSheet :open="true" :title="nameOf(photo)" :wide="true" @close="emit('close')">
    <p class="text-soft">
      {{ moment(photo.taken_at, course.zone) }}, by {{ photo.by
      }}<template v-if="photo.caption">: {{ photo.caption }}</template>
    </p>
    <div v-if="others.length" class="mt-3 flex flex-wrap items-center gap-3">
      <label class="flex min-h-11 items-center gap-2"
        >Beside
        <select v-model="against" class="field w-auto">
          <option value="">none</option>
          <option v-for="one in others" :key="one.id" :value="one.id">{{ nameOf(one) }}</option>
        </select></label
      >
      <label v-if="other" class="flex min-h-11 items-center gap-3"
        ><input v-model="over" type="checkbox" class="h-6 w-6 flex-none" /> laid over each other</label
      >
    </div>
    <p v-if="light?.says" role="status" class="mt-2 border-l-4 border-ink pl-3 font-bold">{{ light.says }}</p>
    <div v-if="other && over" class="mt-3">
      <div class="relative overflow-hidden bg-ground">
        <img :src="big(photo)" :alt="nameOf(photo)" class="block max-h-[60dvh] w-full object-contain" /><img
          :src="big(other)"
          :alt="nameOf(other)"
          class="absolute inset-0 h-full w-full object-contain"
          :style="{ opacity: share / 100 }"
        />
      </div>
      <label class="mt-2 block"
        ><span class="flex justify-between"
          ><span>{{ nameOf(photo) }}</span
          ><span>{{ nameOf(other) }}</span></span
        ><input
          v-model.number="share"
          type="range"
          min="0"
          max="100"
          class="h-11 w-full accent-ink"
          aria-label="How much of the other one is seen"
      /></label>
    </div>
    <div v-else class="mt-3 grid gap-3" :class="{ 'sm:grid-cols-2': other }">
      <figure v-for="one in other ? [photo, other] : [photo]" :key="one.id">
        <img
          :src="big(one)"
          :alt="nameOf(one)"
          :width="one.width"
          :height="one.height"
          class="max-h-[66dvh] w-full bg-ground object-contain"
        />
        <figcaption v-if="other" class="mt-1">{{ nameOf(one) }}</figcaption>
      </figure>
    </div>
    <form v-if="away" class="mt-4 grid gap-3" @submit.prevent="take">
      <LabelledField
        v-model="reason"
        label="Why is it taken away? The log says so; the photo itself is gone for good."
        :says="says('reason')"
      />
      <ProblemText :says="wrong" />
      <SaidAnyway :asks="asks" :busy="busy" @insist="insist" />
      <p class="flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy">Take it away</button
        ><button type="button" class="press" @click="away = false">Keep it</button>
      </p>
    </form>
    <p v-else class="mt-4 flex flex-wrap gap-3">
      <button type="button" class="press press-main" @click="emit('close')">Close</button
      ><button v-if="photo.mine" type="button" class="quiet" @click="away = true">Take it away</button>
    </p>
  </DialogSheet>
</template>
