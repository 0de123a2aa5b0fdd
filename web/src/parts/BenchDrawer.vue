<script setup lang="ts">
import { sure } from "@/parts/sure";
/** The drawer of bench sums, pulled out beside a field: its result goes into the field, or into the log with
 * its working.
 */
import { defineAsyncComponent, ref } from "vue";

import DialogSheet from "./DialogSheet.vue";
import ProblemText from "./ProblemText.vue";
import SaidAnyway from "./SaidAnyway.vue";
import { honest } from "./amounts";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { trialChanged } from "@/shell/query";

// They come with the first pull: a round that works nothing out does not wait for them.
const BenchSums = defineAsyncComponent(() => import("./BenchSums.vue"));

/** ``field``: what the field is called; ``unit``: the only unit that it takes, where there is one; ``trial``:
 * whose log may be written.
 */
const props = defineProps<{
  field?: string;
  unit?: string;
  trial?: string;
  begin?: string;
  system?: "metric" | "us" | "imperial";
}>();
const emit = defineEmits<{ take: [found: { value: number; text: string; working: string }] }>();
const open = ref(false);
const logged = ref(false);
const { busy, other, through, asks, insist, said } = useAct([]);
const fits = (found: Schemas["Answer"]) => found.value !== null && (!props.unit || found.unit === props.unit);
const working = (name: string, found: Schemas["Answer"]) => `${name}: ${found.steps.join(" ")}`;
function take(name: string, found: Schemas["Answer"]): void {
  emit("take", {
    value: Number(sure(found.value).toPrecision(6)),
    text: `${honest(sure(found.value), 6)} ${found.unit}`.trim(),
    working: working(name, found),
  });
  open.value = false;
}
const log = (name: string, found: Schemas["Answer"]) =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/notes", {
        ...said(),
        params: { path: { trial_id: sure(props.trial) } },
        body: { id: crypto.randomUUID(), text: `${name}: ${found.says}`, working: found.steps.join(" ") },
      }),
    );
    logged.value = true;
    await trialChanged(sure(props.trial), ["log"]);
  });
function pull(): void {
  logged.value = false;
  open.value = true;
}
</script>

<template>
  <button type="button" class="quiet" :aria-label="field ? `Work out ${field}` : undefined" @click="pull">
    Work it out
  </button>
  <DialogSheet :open="open" title="Bench sums" wide @close="open = false">
    <BenchSums class="mt-3" narrow :begin="begin" :system="system">
      <template #found="{ found, sum }">
        <div class="mt-4 flex flex-wrap gap-2">
          <button
            v-if="field && fits(found)"
            type="button"
            class="press press-main"
            @click="take(sum, found)"
          >
            Use it for {{ field }}
          </button>
          <button
            v-if="trial"
            type="button"
            class="press"
            :disabled="busy || logged"
            @click="log(sum, found)"
          >
            {{ logged ? "In the log" : "Write it into the log" }}
          </button>
        </div>
        <p v-if="field && !fits(found)" class="mt-2 text-soft">
          {{
            found.value === null
              ? "This has no single amount to use."
              : `The field takes ${unit}, this is in ${found.unit || "no unit"}.`
          }}
        </p>
        <ProblemText :says="other" />
        <SaidAnyway :asks="asks" :busy="busy" @insist="insist" />
      </template>
    </BenchSums>
    <button type="button" class="press mt-5" @click="open = false">Close the drawer</button>
  </DialogSheet>
</template>
