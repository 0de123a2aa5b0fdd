<script setup lang="ts">
/** What each sample measures in its place before treatments are drawn: odd ones are pointed out, and the draw
 * may be balanced.
 */
import { computed, reactive, ref, useId } from "vue";

import PlanRow from "./PlanRow.vue";
import type { Plan, PlanAtWork } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import ReadDevice from "@/parts/ReadDevice.vue";

const plan = defineModel<Plan>({ required: true });
const props = defineProps<{ work: PlanAtWork }>();
const places = computed(() => props.work.judged.value?.places ?? []);
const odd = computed(
  () => new Map(props.work.judged.value?.odd_starts.map((one) => [one.index, one.says]) ?? []),
);
const start = computed(() => plan.value.start_values);
const measured = computed(() => start.value.values.filter((one) => one !== null).length);
const measures = computed(() => plan.value.outcomes.filter((one) => one.scale.kind === "measurement"));
const pasted = ref("");
const wrong = ref("");
const told = useId();
function begin(): void {
  const first = measures.value[0];
  start.value.what = first?.name ?? "Weight";
  start.value.unit = first?.scale.kind === "measurement" ? first.scale.unit : "g";
  start.value.values = places.value.map(() => null);
}
/** As many values as there are places, whatever the layout was when they were written. */
function fit(): void {
  start.value.values = places.value.map((_, i) => start.value.values[i] ?? null);
}
/** Places whose text is no number: it stands on the screen and not in the plan. */
const unkept = reactive(new Set<number>());
function set(i: number, text: string): void {
  fit();
  const value = Number(
    text
      .trim()
      .replace("−", "-")
      .replace(/^(-?\d+),(\d+)$/, "$1.$2"),
  );
  start.value.values[i] = text.trim() && Number.isFinite(value) ? value : null;
  const bad = text.trim() !== "" && !Number.isFinite(value);
  wrong.value = bad ? `“${text.trim()}” is not a number.` : "";
  if (bad) unkept.add(i);
  else unkept.delete(i);
}
function paste(): void {
  const values = pasted.value
    .split(/[\s;]+/)
    .filter(Boolean)
    .map((part) => Number(part.replace(",", ".")));
  if (values.some((value) => !Number.isFinite(value))) wrong.value = "Numbers only, one after another.";
  else if (values.length !== places.value.length)
    wrong.value = `${values.length} numbers for ${places.value.length} places: one for each, in their order.`;
  else {
    start.value.values = values;
    [pasted.value, wrong.value] = ["", ""];
  }
}
/** An instrument reads into the place where the cursor was last, else into the next empty one. */
const at = ref<number | null>(null);
function read(value: number): void {
  fit();
  const i = at.value ?? start.value.values.findIndex((one) => one === null);
  if (i < 0) return;
  start.value.values[i] = value;
  at.value = null;
}
const clear = () => (plan.value.start_values = { what: "", unit: "", values: [], balance: false });
</script>

<template>
  <PlanRow
    title="Measured beforehand"
    :hint="`each ${plan.sample_word || 'sample'} in its place, before treatments are drawn`"
  >
    <template v-if="!start.values.length">
      <p class="max-w-2xl text-soft">
        Where samples differ from the start, measure them first: odd ones are pointed out while they can be
        exchanged, and the draw can be balanced so that treatments begin alike.
      </p>
      <button type="button" class="press press-small mt-2" :disabled="!places.length" @click="begin">
        Write down start values
      </button>
      <p v-if="!places.length" class="mt-1 text-soft">
        There are no places yet: name treatments and their numbers first.
      </p>
    </template>
    <template v-else>
      <div class="grid max-w-xl gap-3 sm:grid-cols-[minmax(0,1fr)_8rem]">
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">What was measured</span
          ><input v-model="start.what" class="field" list="start-what" autocomplete="off" /><datalist
            id="start-what"
          >
            <option v-for="one in measures" :key="one.key" :value="one.name" /></datalist
        ></label>
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">Unit</span
          ><input v-model="start.unit" class="field" autocomplete="off"
        /></label>
      </div>
      <ol class="mt-3 grid grid-cols-2 gap-x-4 gap-y-2 sm:grid-cols-4">
        <li v-for="(place, i) in places" :key="i">
          <label class="block"
            ><span class="block text-[0.9rem] text-soft">{{ place }}</span>
            <input
              class="field"
              inputmode="decimal"
              autocomplete="off"
              :value="start.values[i] ?? ''"
              :aria-invalid="odd.has(i) || unkept.has(i) ? 'true' : undefined"
              :aria-describedby="unkept.has(i) ? told : `${told}-${i}`"
              :data-unkept="unkept.has(i) || undefined"
              @focus="at = i"
              @change="set(i, ($event.target as HTMLInputElement).value)"
            />
          </label>
        </li>
      </ol>
      <ReadDevice
        class="mt-2"
        small
        :unit="start.unit"
        :what="at === null ? 'the next place' : (places[at] ?? '')"
        @read="(one) => read(one.value)"
      />
      <ul v-if="odd.size" class="mt-2">
        <li v-for="[i, says] in odd" :key="i"><ProblemText :id="`${told}-${i}`" :says="says" /></li>
      </ul>
      <div class="mt-3 flex flex-wrap items-start gap-2">
        <label class="min-w-40 grow sm:max-w-96"
          ><span class="sr-only">All values, one after another</span
          ><input
            v-model="pasted"
            class="field"
            placeholder="or paste all of them, in this order"
            autocomplete="off"
            @keydown.enter.prevent="paste"
        /></label>
        <button type="button" class="press press-small" :disabled="!pasted.trim()" @click="paste">
          Take them
        </button>
        <button type="button" class="quiet" @click="clear">Leave start values out</button>
      </div>
      <ProblemText :id="told" :says="wrong || work.says('start_values.values')" />
      <label class="mt-2 flex min-h-11 items-center gap-3"
        ><input v-model="start.balance" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> Balance the
        draw on them: the best of twenty draws</label
      >
      <p class="text-soft">{{ measured }} of {{ places.length }} measured.</p>
    </template>
  </PlanRow>
</template>
