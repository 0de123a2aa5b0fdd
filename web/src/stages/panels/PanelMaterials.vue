<script setup lang="ts">
import { sure } from "@/parts/sure";
/** In what form things are put before people; the files of sounds and pictures. */
import { computed, ref } from "vue";

import type { PanelPlan } from "./methods";
import ChoiceRow from "@/parts/ChoiceRow.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { honest } from "@/parts/amounts";
import { answer, trusted, type Schemas } from "@/shell/api/client";
import { Declined, problemsOf } from "@/shell/api/problems";

const model = defineModel<NonNullable<PanelPlan["material"]>>({ required: true });
const props = defineProps<{
  panel: Schemas["PanelOut"];
  things: readonly Schemas["ThingOut"][];
  stimuli: readonly string[];
  says?: string;
  saved: () => Promise<boolean>;
}>();
const emit = defineEmits<{ kept: [panel: Schemas["PanelOut"]] }>();
const CHOICES: { value: NonNullable<PanelPlan["material"]>; name: string; says: string }[] = [
  { value: "cups", name: "Cups", says: "Tasted, smelled, touched: poured by somebody." },
  { value: "sounds", name: "Sounds", says: "Files, played in step and equally loud." },
  { value: "pictures", name: "Pictures", says: "Files, shown side by side." },
];
const LARGEST = 25_000_000;
/** A file for each thing, over each stimulus. */
const wanted = computed(() =>
  (props.stimuli.length ? props.stimuli : [""]).flatMap((over, stimulus) =>
    props.things.map((thing) => ({
      id: `${thing.key}/${stimulus}`,
      thing: thing.key,
      stimulus,
      name: over ? `${over}: ${thing.name}` : thing.name,
      kept: props.panel.materials.find((one) => one.thing === thing.key && one.stimulus === stimulus),
    })),
  ),
);
type Wanted = (typeof wanted.value)[number];
const told = ref<Record<string, string>>({});
async function upload(one: Wanted, event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0];
  if (!file) return;
  told.value = { ...told.value, [one.id]: "" };
  try {
    if (file.size > LARGEST)
      throw new Declined(413, [
        {
          at: "file",
          says: "This file is larger than 25 MB; half a minute of sound or one picture is enough.",
        },
      ]);
    if (!(await props.saved())) return;
    const form = new FormData();
    form.set("file", file);
    const response = await trusted(
      new Request(
        `/api/panels/${props.panel.id}/materials/${encodeURIComponent(one.thing)}?stimulus=${one.stimulus}`,
        { method: "POST", body: form },
      ),
    );
    const data = (await response.json().catch(() => undefined)) as Schemas["PanelOut"] | undefined;
    emit("kept", await answer(Promise.resolve({ data, error: data, response })));
  } catch (error) {
    told.value = { ...told.value, [one.id]: sure(problemsOf(error)[0]).says };
  }
}
</script>

<template>
  <div class="grid gap-3">
    <ChoiceRow v-model="model" legend="In what form?" :choices="CHOICES" />
    <ul v-if="model !== 'cups'" class="grid gap-2">
      <li
        v-for="one in wanted"
        :key="one.id"
        class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line pb-2"
      >
        <span class="min-w-40 font-bold">{{ one.name }}</span>
        <label class="file press press-small cursor-pointer"
          >{{ one.kept ? "Another file" : "Choose a file"
          }}<input
            type="file"
            class="sr-only"
            :accept="model === 'sounds' ? 'audio/*' : 'image/*'"
            :aria-label="`File for ${one.name}`"
            @change="upload(one, $event)"
        /></label>
        <span v-if="one.kept"
          >{{ one.kept.name
          }}<template v-if="one.kept.seconds">, {{ honest(one.kept.seconds, 3) }} s</template></span
        >
        <ProblemText class="w-full" :says="told[one.id]" />
      </li>
    </ul>
    <ProblemText :says="says" />
  </div>
</template>

<style scoped>
.file:focus-within {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
</style>
