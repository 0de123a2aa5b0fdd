<script setup lang="ts">
/** The line-up of an opened trial, for members who come later than the one who opened the key. */
import { ref } from "vue";
import { useRouter } from "vue-router";

import LineUpPart from "./LineUpPart.vue";
import NothingHere from "@/parts/NothingHere.vue";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const router = useRouter();
const none = ref(false);
/** To the verdict, unless there was nothing to be picked from. */
function on(shown: boolean): void {
  if (shown) void router.push({ name: "verdict", params: { id: props.id } });
  else none.value = true;
}
</script>

<template>
  <NothingHere v-if="!course.opened_at" says="The line-up comes with the key: it is still sealed." />
  <NothingHere
    v-else-if="none"
    says="There is no line-up of this trial: it takes two to six treatments, samples enough to be dealt in many ways, and a verdict that is worked out."
  />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LineUpPart :trial="id" @done="on" />
  </section>
</template>
