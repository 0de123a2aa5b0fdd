<script setup lang="ts">
/** A rule as people write it, and the looks it stands for. */
import { ref, useId } from "vue";

import { pastedLines } from "./lists";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const props = defineProps<{ cycleWord: string }>();
const emit = defineEmits<{ take: [looks: Schemas["Repeated"][]] }>();
const id = useId();
const rule = ref("");
const { busy, says, other, through } = useAct(["rule"]);
const EXAMPLES = [
  "every 5 days, eight times",
  "daily at 08:00, 12 times",
  "after 2 h, 1 day and 1 week",
  "monthly, 6 times",
];
/** A list of looks, a line each, is one rule. */
function pasted(event: ClipboardEvent): void {
  const lines = pastedLines(event);
  if (!lines) return;
  const names = lines.map((line) => line.name);
  rule.value = `${names.slice(0, -1).join(", ")} and ${names.at(-1) ?? ""}`;
}
const take = () =>
  through(async () => {
    emit(
      "take",
      (await answer(api.POST("/api/looks", { body: { rule: rule.value, cycle_word: props.cycleWord } })))
        .looks,
    );
    rule.value = "";
  });
const told = useId();
</script>

<template>
  <div>
    <label :for="id" class="mb-1 block text-[0.9rem] text-soft">Write it as you would say it</label>
    <div class="flex gap-2">
      <input
        :id="id"
        v-model="rule"
        class="field"
        autocomplete="off"
        :placeholder="EXAMPLES[0]"
        :aria-invalid="says('rule') ? 'true' : undefined"
        :aria-describedby="told"
        @keydown.enter.prevent="take"
        @paste="pasted"
      />
      <button type="button" class="press press-small flex-none" :disabled="busy" @click="take">
        Add these looks
      </button>
    </div>
    <ProblemText :id="told" :says="says('rule') ?? other" />
    <p class="mt-1 flex flex-wrap items-center gap-x-1 text-[0.92rem] text-soft">
      For example:
      <button v-for="one in EXAMPLES" :key="one" type="button" class="quiet" @click="rule = one">
        {{ one }}
      </button>
    </p>
  </div>
</template>
