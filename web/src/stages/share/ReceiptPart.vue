<script setup lang="ts">
/** A receipt of all that was recorded so far, and whether the record still holds one that was taken before.
 */
import { ref, useId } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const props = defineProps<{ id: string }>();
const { busy, says, other, through } = useAct(["receipt"]);
const text = ref("");
const found = ref<Schemas["ReceiptHeld"]>();
const check = () =>
  through(async () => {
    found.value = undefined;
    found.value = await answer(
      api.POST("/api/trials/{trial_id}/receipt/check", {
        params: { path: { trial_id: props.id } },
        body: { receipt: text.value },
      }),
    );
  });
async function read(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0];
  if (!file) return;
  text.value = (await file.slice(0, 2_000).text()).trim();
  await check();
}
const told = useId();
</script>

<template>
  <div class="rule mt-8 pt-4">
    <h2>A receipt</h2>
    <p class="mt-1 max-w-3xl">
      Plan, key, every reading, decision and start stand in one chain. A receipt is its last link: it tells
      nothing of what was read, and proves later that nothing before it was changed, taken out or put in. Take
      one when you like, and keep it apart.
    </p>
    <p class="mt-4">
      <a
        class="press press-main"
        :href="`/api/trials/${id}/receipt`"
        :download="`receipt-${id.slice(0, 8)}.json`"
        >Take a receipt</a
      >
    </p>
    <form class="mt-5 grid max-w-3xl gap-3" @submit.prevent="check">
      <label class="font-bold" for="receipt">Check a receipt</label>
      <textarea
        id="receipt"
        v-model="text"
        rows="2"
        class="field code font-normal"
        spellcheck="false"
        placeholder="Its text, or the link alone"
        :aria-invalid="!!says('receipt')"
        :aria-describedby="told"
      />
      <ProblemText :id="told" :says="says('receipt') || other" />
      <p class="flex flex-wrap gap-3">
        <button class="press" :disabled="busy || !text.trim()">Check it</button>
        <label class="press cursor-pointer"
          >From a file<input
            type="file"
            class="sr-only"
            accept=".json,.txt,application/json"
            aria-label="A receipt from a file"
            @change="read"
        /></label>
      </p>
      <p v-if="found" role="status" class="font-bold">
        <template v-if="found.number !== null"
          >It holds: nothing up to entry {{ found.number }} of {{ found.entries }} was changed since it was
          taken.</template
        >
        <template v-else
          >It does not hold: something recorded before it was changed, or it is of another trial.</template
        >
      </p>
    </form>
  </div>
</template>
