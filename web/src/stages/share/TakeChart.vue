<script setup lang="ts">
/** A chart to put elsewhere, as SVG or PNG; the readings as a table for the clipboard. */
import { computed, onBeforeUnmount, ref } from "vue";

import { made, saysOf, type FileState } from "./madeFile";
import { pasted } from "./pasted";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ id: string; outcomes: readonly Schemas["OutcomeOut"][] }>();
const shown = computed(() => props.outcomes.filter((one) => one.scale.kind !== "note"));
const outcome = ref(shown.value[0]?.key ?? "");
const kind = ref<"dots" | "time">("dots");
const several = computed(
  () => (shown.value.find((one) => one.key === outcome.value)?.checkpoints.length ?? 0) > 1,
);
const address = (form: string) =>
  `/api/trials/${props.id}/chart?outcome=${encodeURIComponent(outcome.value)}&kind=${several.value ? kind.value : "dots"}&form=${form}`;
const copied = ref("");
const left = new AbortController();
onBeforeUnmount(() => left.abort());
async function copy(): Promise<void> {
  try {
    const tell = (now: FileState) => (copied.value = saysOf(now));
    const at = await made({ trial: props.id, what: "readings" }, tell, left.signal);
    if (!at) return;
    const text = await (await fetch(at)).text();
    const rows = pasted(text).split("\n");
    await navigator.clipboard.writeText(rows.join("\n"));
    copied.value = `${(rows.length - 1).toLocaleString("en")} rows copied; paste them into a spreadsheet.`;
  } catch {
    copied.value = "This browser did not let the table onto its clipboard; save it instead.";
  }
}
</script>

<template>
  <div class="border-t-2 border-ink pt-3">
    <h2>Chart and table</h2>
    <div class="mt-2 flex flex-wrap gap-3">
      <label class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">Chart of</span
        ><select v-model="outcome" class="field">
          <option v-for="one in shown" :key="one.key" :value="one.key">{{ one.name }}</option>
        </select></label
      >
      <label v-if="several" class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">showing</span
        ><select v-model="kind" class="field">
          <option value="dots">each sample</option>
          <option value="time">means over time</option>
        </select></label
      >
    </div>
    <p class="mt-3 flex flex-wrap gap-3">
      <a class="press press-small" :href="address('svg')" download>SVG</a
      ><a class="press press-small" :href="address('png')" download>PNG</a
      ><button type="button" class="press press-small" @click="copy">Copy all readings</button>
    </p>
    <p v-if="copied" class="mt-2" role="status">{{ copied }}</p>
  </div>
</template>
