<script setup lang="ts">
/** Taking the covers off at the end: the letter under each, read in. */
import { computed, reactive, useId } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import SampleTag from "@/parts/SampleTag.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const props = defineProps<{ id: string; state: Schemas["ShuffleOut"] }>();
const emit = defineEmits<{ lifted: [state: Schemas["ShuffleOut"]] }>();
const codes = computed(() =>
  props.state.kind === "flasks" ? props.state.flasks : Object.values(props.state.codes).flat(),
);
const letters = reactive<Record<string, string>>({});
const { busy, says, other, through } = useAct(["letters"]);
const lift = () =>
  through(async () =>
    emit(
      "lifted",
      await answer(
        api.POST("/api/trials/{trial_id}/uncover", {
          params: { path: { trial_id: props.id } },
          body: { letters: { ...letters } },
        }),
      ),
    ),
  );
const told = useId();
</script>

<template>
  <form class="mt-6 max-w-3xl border-t-2 border-ink pt-3" @submit.prevent="lift">
    <h2>Take the covers off</h2>
    <p class="mt-1">
      Only when all is scored, just before the key is opened: what is scored afterwards counts as open. Read
      the letter under each cover.
    </p>
    <ul class="mt-3 grid gap-x-6 gap-y-2 sm:grid-cols-2">
      <li v-for="code in codes" :key="code">
        <label class="flex items-center gap-3"
          ><span class="w-36 flex-none"><SampleTag :code="code" /></span
          ><span class="sr-only">Letter under {{ code }}</span
          ><input
            v-model="letters[code]"
            class="field code max-w-20"
            maxlength="3"
            autocapitalize="characters"
            autocomplete="off"
            :aria-invalid="says(`letters.${code}`) ? 'true' : undefined"
            :aria-describedby="`${told}-${code}`"
        /></label>
        <ProblemText :id="`${told}-${code}`" :says="says(`letters.${code}`)" />
      </li>
    </ul>
    <ProblemText :says="says('letters') ?? other" />
    <button class="press press-main mt-4" :disabled="busy">The covers are off</button>
  </form>
</template>
