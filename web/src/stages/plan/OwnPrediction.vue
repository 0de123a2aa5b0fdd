<script setup lang="ts">
/** What this person expects; nobody else reads it before the key opens. */
import { computed, onMounted, ref, useId } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import { moment } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const props = defineProps<{ trial: string; zone: string; opened?: boolean }>();
const emit = defineEmits<{ written: [count: number] }>();
const id = useId();
const path = { params: { path: { trial_id: props.trial } } };
const text = ref("");
const kept = ref<Schemas["PredictionOut"]>();
const { busy, other, says, through } = useAct(["text"]);
const others = computed(() => (kept.value ? kept.value.written - (kept.value.at ? 1 : 0) : 0));
/** What is typed on while an older text is being kept stands. */
function take(out: Schemas["PredictionOut"], sent = ""): void {
  kept.value = out;
  if (text.value === sent) text.value = out.text;
  emit("written", out.written);
}
onMounted(async () => take(await answer(api.GET("/api/trials/{trial_id}/prediction", path))));
const keep = () =>
  through(async () => {
    const sent = text.value;
    if (kept.value && sent.trim() !== kept.value.text)
      take(
        await answer(api.PUT("/api/trials/{trial_id}/prediction", { ...path, body: { text: sent } })),
        sent,
      );
  });
const told = useId();
</script>

<template>
  <div>
    <label :for="id" class="sr-only">Your prediction</label>
    <textarea
      :id="id"
      v-model="text"
      class="field block"
      rows="2"
      placeholder="What do you think will happen?"
      :disabled="!kept || opened"
      :aria-invalid="says('text') ? 'true' : undefined"
      :aria-describedby="told"
      @change="keep"
    />
    <ProblemText :id="told" :says="says('text') ?? other" />
    <p class="mt-1 text-[0.92rem] text-soft" role="status">
      <template v-if="busy">Keeping…</template>
      <template v-else-if="opened">The key is open: all predictions stand beside the verdict.</template>
      <template v-else-if="kept?.at"
        >Sealed {{ moment(kept.at, zone) }}. Nobody else reads it before the key opens.</template
      >
      <template v-else>Kept sealed: nobody else reads it before the key opens.</template>
      <span v-if="others > 0 && !opened" class="ml-1"
        >{{ others }} {{ kept?.at ? "more " : "" }}{{ others === 1 ? "person has" : "people have" }} written
        theirs.</span
      >
    </p>
  </div>
</template>
