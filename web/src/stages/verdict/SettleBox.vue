<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** What would settle an open verdict, with what it costs, and one tap to the trial that would do it. */
import { useRouter } from "vue-router";

import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";
import { counted, type Noun } from "@/parts/nouns";

const props = defineProps<{
  id: string;
  settle: readonly Schemas["Settle"][];
  money: string;
  sample: Noun;
}>();
const router = useRouter();
const { busy, other, through } = useAct([]);
const plan = (samples: number | null) =>
  through(async () => {
    const begun = await answer(
      api.POST("/api/trials/{trial_id}/again", {
        params: { path: { trial_id: props.id } },
        body: { samples, only: [] },
      }),
    );
    await queryClient.invalidateQueries({ queryKey: keys.shelf() });
    await router.push({ name: "plan", params: { id: begun.id, part: "question" } });
  });
const price = (one: Schemas["Settle"]) =>
  `${counted(one.total, props.sample)} in all${one.cost === null ? "" : `, ${props.money}${one.cost.toFixed(2)}`}`;
</script>

<template>
  <section class="on-panel mt-6 max-w-4xl bg-panel p-5 text-panel-ink" aria-label="What would settle it">
    <h2 class="text-[1.05rem]">What would settle it</h2>
    <ul class="mt-2 grid gap-2">
      <li
        v-for="one in settle"
        :key="one.kind"
        class="flex flex-wrap items-center justify-between gap-x-6 gap-y-1"
      >
        <span
          >{{ one.says }} <span class="text-panel-soft">({{ price(one) }})</span></span
        >
        <button
          v-if="one.samples !== null"
          type="button"
          class="press press-small"
          :disabled="busy"
          @click="plan(one.samples)"
        >
          Plan the next one with {{ one.samples }}
        </button>
      </li>
    </ul>
    <button
      v-if="settle.every((one) => one.samples === null)"
      type="button"
      class="press press-small mt-3"
      :disabled="busy"
      @click="plan(null)"
    >
      Plan the next one
    </button>
    <ProblemText :says="other" />
  </section>
</template>
