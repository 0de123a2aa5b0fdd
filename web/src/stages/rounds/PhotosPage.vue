<script setup lang="ts">
/** Photos: a contact sheet of samples by looks, the board as a whole, what each level looks like; two of them
 * compared.
 */
import { computed, nextTick, ref, watch } from "vue";

import PhotoViewer from "./PhotoViewer.vue";
import NothingHere from "@/parts/NothingHere.vue";
import PhotoButton from "@/parts/PhotoButton.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { reading } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { useBoard, usePhotos } from "@/shell/query";
import { useWaiting } from "@/shell/waiting";
import LongName from "@/parts/LongName.vue";

type Photo = Schemas["PhotoOut"];
const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const { data, error } = usePhotos(() => props.id);
const { data: board } = useBoard(() => props.id);
const photos = computed(() => data.value?.photos ?? []);
const viewed = ref<Photo | null>(null);
const small = (photo: Photo) => `/api/photos/${photo.id}.jpg?small=true`;
const may = computed(
  () => ["sealed", "running"].includes(props.course.state) && props.course.role !== "viewer",
);
/** The looks that have photos, and the one that photos may be taken at now. */
const now = computed(
  () =>
    props.course.checkpoints.find((stop) => stop.standing === "due") ??
    props.course.checkpoints.find((stop) => stop.standing === "late") ??
    [...props.course.checkpoints].reverse().find((stop) => stop.standing === "taken"),
);
const looks = computed(() =>
  props.course.checkpoints.filter(
    (stop) =>
      stop.key === now.value?.key ||
      (stop.noted && may.value) ||
      photos.value.some((photo) => photo.checkpoint === stop.key),
  ),
);
const at = (checkpoint: string, code: string) =>
  photos.value.filter((photo) => photo.checkpoint === checkpoint && photo.code === code);
const tags = computed(() =>
  (board.value?.tags ?? []).filter(
    (tag) => !tag.set_aside || photos.value.some((photo) => photo.code === tag.code),
  ),
);
const levelled = computed(() =>
  props.course.outcomes.flatMap((outcome) => {
    const scale = outcome.scale;
    const levels =
      scale.kind === "grade"
        ? scale.levels.map((level) => ({ value: level.value, words: level.anchor }))
        : scale.kind === "passfail"
          ? [
              { value: 1, words: "" },
              { value: 0, words: "" },
            ]
          : scale.kind === "shade"
            ? scale.steps.map((step, i) => ({ value: i + 1, words: step.label }))
            : [];
    return levels.length
      ? [
          {
            outcome,
            levels: levels.map((level) => ({
              ...level,
              label: reading(level.value, scale),
              photo: [...photos.value]
                .reverse()
                .find((photo) => photo.outcome === outcome.key && photo.level === level.value),
            })),
          },
        ]
      : [];
  }),
);
const shows = computed(() => {
  const one = photos.value.filter((photo) => photo.checkpoint);
  if (!one.length)
    return may.value
      ? "No photo yet. Same place, same light, and a grey card or a white sheet in the picture: then they can be compared."
      : "No photo was taken.";
  return `${one.length} ${one.length === 1 ? "photo" : "photos"} at ${new Set(one.map((photo) => photo.checkpoint)).size} looks. Same place, same light, and a grey card or a white sheet in the picture.`;
});
/** On a narrow screen the newest look is what somebody comes for. */
const roll = ref<HTMLElement>();
watch(
  () => [roll.value, looks.value.length],
  () => void nextTick(() => roll.value?.scrollTo({ left: roll.value.scrollWidth })),
  { flush: "post" },
);
const gauged = computed(
  () =>
    props.course.state !== "draft" &&
    props.course.outcomes.some((one) =>
      ["percent", "shade", "count", "measurement"].includes(one.scale.kind),
    ) &&
    ["lead", "scorer"].includes(props.course.role),
);
const { waiting } = useWaiting(() => props.id);
const waits = computed(() => waiting.value.filter((row) => row.kind === "photo").length);
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <div class="flex flex-wrap items-baseline justify-between gap-x-6">
      <h1>Photos</h1>
      <p class="flex flex-wrap gap-3">
        <RouterLink v-if="may" class="press press-small" :to="{ name: 'tray', params: { id } }"
          >File a heap of photos</RouterLink
        ><RouterLink v-if="gauged" class="press press-small" :to="{ name: 'gauge', params: { id } }"
          >Measure in them</RouterLink
        >
      </p>
    </div>
    <p class="mt-1 max-w-3xl">{{ shows }}</p>
    <p v-if="waits" class="mt-2 border-l-4 border-ink pl-3" role="status">
      {{ waits }} on this device only; sent by themselves once there is a network.
    </p>
    <template v-if="tags.length && looks.length">
      <div ref="roll" class="mt-5 overflow-x-auto" tabindex="0" role="region" aria-label="Contact sheet">
        <table class="contact">
          <thead>
            <tr>
              <th scope="col"><span class="sr-only">Sample</span></th>
              <th v-for="look in looks" :key="look.key" scope="col">{{ look.name }}</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <th scope="row">Whole board</th>
              <td v-for="look in looks" :key="look.key">
                <button
                  v-for="photo in at(look.key, '')"
                  :key="photo.id"
                  type="button"
                  class="thumb"
                  :aria-label="`Whole board, ${look.name}`"
                  @click="viewed = photo"
                >
                  <img :src="small(photo)" alt="" loading="lazy" />
                </button>
                <PhotoButton
                  v-if="may && (look.key === now?.key || look.noted) && !at(look.key, '').length"
                  bare
                  :trial="id"
                  :shown="{ checkpoint: look.key }"
                  :seen="look.noted && look.due ? new Date(look.due) : undefined"
                  :label="`Photo of the whole board, ${look.name}`"
                />
              </td>
            </tr>
            <tr v-for="tag in tags" :key="tag.code">
              <th scope="row">
                <SampleTag :code="tag.code" :set-aside="tag.set_aside" :letter="tag.letter" />
              </th>
              <td v-for="look in looks" :key="look.key">
                <button
                  v-for="photo in at(look.key, tag.code)"
                  :key="photo.id"
                  type="button"
                  class="thumb"
                  :aria-label="`${tag.code}, ${look.name}`"
                  @click="viewed = photo"
                >
                  <img :src="small(photo)" alt="" loading="lazy" />
                </button>
                <PhotoButton
                  v-if="
                    may &&
                    !tag.set_aside &&
                    (look.key === now?.key || look.noted) &&
                    !at(look.key, tag.code).length
                  "
                  bare
                  :trial="id"
                  :shown="{ checkpoint: look.key, sample: tag.id }"
                  :seen="look.noted && look.due ? new Date(look.due) : undefined"
                  :label="`Photo of ${tag.code}, ${look.name}`"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="mt-2 text-soft">
        Tap a photo to see it large or beside another one. Where it was taken, when and with what is taken out
        of every photo before it is kept.
      </p>
    </template>
    <div v-for="one in levelled" :key="one.outcome.key" class="rule mt-6 pt-4">
      <h2>What {{ one.outcome.name.toLowerCase() }} looks like</h2>
      <p class="text-soft">
        Shown beside the pads while scoring{{ course.may_lead ? "." : "; the lead puts them here." }}
      </p>
      <ul class="mt-3 grid gap-3" :class="'grid-cols-2 sm:grid-cols-3 xl:grid-cols-6'">
        <li v-for="level in one.levels" :key="level.value">
          <button
            v-if="level.photo"
            type="button"
            class="thumb"
            :aria-label="`${one.outcome.name} ${level.label}`"
            @click="viewed = level.photo"
          >
            <img :src="small(level.photo)" alt="" loading="lazy" />
          </button>
          <PhotoButton
            v-else-if="course.may_lead"
            bare
            :trial="id"
            :shown="{ outcome: one.outcome.key, level: level.value }"
            :label="`Photo of ${one.outcome.name} ${level.label}`"
          />
          <span
            v-else
            class="grid aspect-[4/3] place-items-center border-2 border-dashed border-line text-soft"
            >no photo</span
          >
          <p class="mt-1">
            <b>{{ level.label }}</b> {{ level.words }}
          </p>
        </li>
      </ul>
    </div>
    <PhotoViewer
      v-if="viewed"
      :id="id"
      :photo="viewed"
      :photos="photos"
      :course="course"
      @close="viewed = null"
    />
  </section>
</template>

<style scoped>
.contact {
  border-collapse: separate;
  border-spacing: 8px 6px;
  margin-left: -8px;
}
.contact thead th {
  text-align: left;
  font-weight: 600;
  color: var(--soft);
  white-space: nowrap;
}
.contact tbody th {
  text-align: left;
  width: 7.4rem;
  min-width: 7.4rem;
  vertical-align: middle;
  position: sticky;
  left: 0;
  background: var(--sheet);
}
.contact td {
  width: 7rem;
  min-width: 6.4rem;
  vertical-align: middle;
}
.thumb {
  display: block;
  width: 100%;
  aspect-ratio: 4 / 3;
  background: var(--ground);
  overflow: hidden;
}
.thumb img {
  width: 100%;
  height: 100%;
  object-fit: cover;
}
</style>
