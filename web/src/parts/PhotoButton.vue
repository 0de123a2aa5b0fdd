<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Take a photo, or choose one: kept on this device and sent by itself. */
import { ref } from "vue";

import ProblemText from "./ProblemText.vue";
import { problemsOf } from "@/shell/api/problems";
import { rightNow } from "@/shell/offline/clock";
import type { PhotoShown } from "@/shell/offline/device";
import { keepAndSend, photoLane } from "@/shell/outbox";
import { useMe } from "@/shell/query";

const props = defineProps<{
  trial: string;
  shown: PhotoShown;
  label: string;
  bare?: boolean;
  icon?: boolean;
  /** When it was seen, where that was not now. */
  seen?: Date;
}>();
const emit = defineEmits<{ sent: [] }>();
const { data: me } = useMe();
const TOLD = {
  stored: "Photo stored.",
  waits: "Photo kept on this device; it is sent by itself.",
  refused: "Not taken: see what stands at the top of the page.",
};
const busy = ref(false);
const says = ref("");
const told = ref("");
async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  const file = input.files?.[0];
  if (!file || !me.value) return;
  busy.value = true;
  says.value = told.value = "";
  try {
    const [id, person] = [crypto.randomUUID(), me.value.id];
    const whose = {
      id,
      lane: photoLane(props.trial, person),
      trial: props.trial,
      person,
      given_at: (props.seen ?? rightNow()).toISOString(),
    };
    const became = await keepAndSend({
      ...whose,
      kind: "photo",
      body: { ...props.shown },
      file,
      called: props.label,
    });
    // Beside an icon there is no room for it, and what was not taken stands at the top of the page.
    told.value = props.icon && became === "refused" ? "" : TOLD[became];
    if (became === "stored") emit("sent");
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  } finally {
    busy.value = false;
    input.value = "";
  }
}
</script>

<template>
  <div>
    <label
      :class="bare ? 'plus' : icon ? 'press press-small bg-sheet' : 'press press-small'"
      :aria-busy="busy"
    >
      <input
        type="file"
        accept="image/*"
        class="sr-only"
        :disabled="busy"
        :aria-label="label"
        @change="take"
      />
      <svg viewBox="0 0 24 20" class="h-5 w-6 flex-none" aria-hidden="true">
        <path d="M2 5h5l2-3h6l2 3h5v13H2z" fill="none" stroke="currentColor" stroke-width="2" />
        <circle cx="12" cy="11" r="4" fill="none" stroke="currentColor" stroke-width="2" />
      </svg>
      <span v-if="!bare && !icon">{{ busy ? "Sending …" : label }}</span>
    </label>
    <p v-if="told && icon" class="absolute right-0 bg-sheet text-[0.9rem] whitespace-nowrap" role="status">
      {{ told }}
    </p>
    <p v-else-if="told && !bare" class="mt-1 text-[0.9rem] text-soft" role="status">{{ told }}</p>
    <ProblemText :says="says" />
  </div>
</template>

<style scoped>
label {
  cursor: pointer;
  position: relative;
}
label:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
.plus {
  display: grid;
  place-items: center;
  width: 100%;
  height: 52px;
  border: 2px dashed var(--line);
  color: var(--soft);
}
</style>
