<script setup lang="ts">
/** What was written beside the samples: words counted by treatment, and some notes as they are. */
import LetterChip from "./LetterChip.vue";
import { counted } from "@/parts/nouns";
import type { Schemas } from "@/shell/api/client";

defineProps<{ verdict: Schemas["VerdictOut"] }>();
const NOTED = { one: "sample with a note", many: "samples with notes" };
</script>

<template>
  <ul class="grid gap-4">
    <li v-for="one in verdict.notes" :key="one.treatment" class="min-w-0">
      <p>
        <LetterChip :treatments="verdict.treatments" :name="one.treatment" /> <b>{{ one.treatment }}</b>,
        {{ counted(one.samples, NOTED)
        }}<template v-if="one.words.length"
          >:
          <template v-for="(word, i) in one.words" :key="word.word"
            >{{ i ? ", " : "" }}“{{ word.word }}” on {{ word.samples }}</template
          ></template
        >.
      </p>
      <blockquote
        v-for="quote in one.quotes"
        :key="quote.sample + quote.words"
        class="mt-1 border-l-2 border-line pl-3 break-words"
      >
        {{ quote.words }}
        <span class="text-soft">({{ quote.sample }}{{ quote.look ? `, ${quote.look}` : "" }})</span>
      </blockquote>
    </li>
  </ul>
</template>
