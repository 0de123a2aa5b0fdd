<script setup lang="ts">
/** Preparing, in the order of the work: mix, print and tie on the tags, perhaps shuffle, give, start. */
import { computed } from "vue";

import GivePart from "./GivePart.vue";
import MixPart from "./MixPart.vue";
import ShufflePart from "./ShufflePart.vue";
import StartPart from "./StartPart.vue";
import TagsPart from "./TagsPart.vue";
import PartLinks from "@/parts/PartLinks.vue";
import type { Schemas } from "@/shell/api/client";
import { usePrepared } from "@/shell/query";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; part?: string; course: Schemas["CourseOut"] }>();
const { data: prepared } = usePrepared(() => props.id);
const PAGES = { mix: MixPart, tags: TagsPart, shuffle: ShufflePart, give: GivePart, start: StartPart };
type Key = keyof typeof PAGES;
const sealed = computed(() => props.course.state !== "draft");
const total = (count: (block: Schemas["BlockPrepared"]) => number) =>
  prepared.value?.blocks.reduce((sum, block) => sum + count(block), 0) ?? 0;
const names: Record<Key, string> = {
  mix: "Mix",
  tags: "Tags and sheets",
  shuffle: "Shuffle",
  give: "Give",
  start: "Start",
};
const open = computed<Partial<Record<Key, number>>>(() => ({
  give: total((one) => one.samples - one.given),
  start: total((one) => one.samples - one.started),
}));
const parts = computed(() =>
  (Object.keys(PAGES) as Key[])
    .filter((key) => key === "mix" || sealed.value)
    .map((key) => ({
      key,
      name: names[key],
      to: { name: "prepare", params: { id: props.id, part: key } },
      open: props.course.opened_at ? 0 : open.value[key],
    })),
);
const here = computed<Key>(() => {
  const asked = parts.value.find((one) => one.key === props.part)?.key;
  return asked ?? (!sealed.value || !props.course.started_at ? "mix" : "give");
});
</script>

<template>
  <section class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <h1>Prepare</h1>
    <PartLinks class="mt-3" label="Parts of preparing" :here="here" :parts="parts" />
    <component :is="PAGES[here]" :id="id" :course="course" :prepared="prepared" class="mt-5" />
  </section>
</template>
