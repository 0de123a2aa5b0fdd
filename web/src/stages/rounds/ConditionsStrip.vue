<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** What it was like around the samples, over time: temperature as a line, rain as bars; and a form to note
 * it.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed, reactive, ref } from "vue";

import NumberField from "@/parts/NumberField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { honest } from "@/parts/amounts";
import { fieldOf, momentIn } from "@/parts/localMoment";
import { moment, weekday } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { rightNow } from "@/shell/offline/clock";
import { laneOf, trySending } from "@/shell/outbox";
import { queryClient, useMe } from "@/shell/query";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const path = { trial_id: props.id };
const { data } = useQuery({
  queryKey: keys.conditions(computed(() => props.id)),
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/conditions", { params: { path } })),
});
const all = computed(() => data.value?.conditions ?? []);
const writing = ref(false);
const now = reactive<{
  place: string;
  temperature: number | null;
  humidity: number | null;
  rain: number | null;
  light: number | null;
}>({ place: "", temperature: null, humidity: null, rain: null, light: null });
/** When it was like that, where that was not now. */
const then = ref("");
const { data: me } = useMe();
const waits = ref(false);
const { busy, says, other, through } = useAct(["place", "temperature", "humidity", "rain", "light", "at"]);
/** What the station says now is asked for now; what somebody read is theirs, and waits where there is no
 * network.
 */
const note = (fromStation: boolean) =>
  through(async () => {
    const [id, person, given_at] = [crypto.randomUUID(), me.value?.id ?? 0, rightNow().toISOString()];
    const body = { ...now, id, at: then.value ? momentIn(then.value) : given_at, from_station: fromStation };
    if (fromStation)
      queryClient.setQueryData(
        keys.conditions(props.id),
        await answer(api.POST("/api/trials/{trial_id}/conditions", { params: { path }, body })),
      );
    else
      waits.value = !(await trySending({
        id,
        lane: laneOf(props.id, person),
        trial: props.id,
        person,
        given_at,
        called: "Conditions",
        kind: "conditions",
        body,
      }));
    then.value = "";
    Object.assign(now, { temperature: null, humidity: null, rain: null, light: null });
    writing.value = false;
  });
const [WIDTH, HEIGHT] = [900, 150];
const span = computed(() => {
  const times = all.value.map((one) => Date.parse(one.at));
  const [first, last] = [Math.min(...times), Math.max(...times)];
  return { first, last: last > first ? last : first + 1 };
});
const x = (at: string) =>
  34 + ((WIDTH - 44 - 110) * (Date.parse(at) - span.value.first)) / (span.value.last - span.value.first);
const warm = computed(() => all.value.filter((one) => one.temperature !== null));
const ends = computed(() => {
  const found = warm.value.map((one) => sure(one.temperature));
  return { low: Math.floor(Math.min(...found, 0) / 5) * 5, high: Math.ceil(Math.max(...found, 10) / 5) * 5 };
});
/** A line for each place: what is measured in one room says nothing of another. */
const STYLES = ["", "7 5", "2 4", "12 4 2 4"];
const lines = computed(() =>
  [...new Set(warm.value.map((one) => one.place))].map((place, i) => {
    const own = warm.value.filter((one) => one.place === place);
    return { place, own, dashes: STYLES[i % STYLES.length], last: sure(own.at(-1)) };
  }),
);
const y = (value: number) =>
  HEIGHT - 22 - ((HEIGHT - 34) * (value - ends.value.low)) / (ends.value.high - ends.value.low);
const wet = computed(() => all.value.filter((one) => (one.rain ?? 0) > 0));
const wettest = computed(() => Math.max(5, ...wet.value.map((one) => sure(one.rain))));
const bright = computed(() => all.value.filter((one) => one.light !== null));
const brightest = computed(() => Math.max(1, ...bright.value.map((one) => sure(one.light))));
const LATER = 12 * 3_600_000;
/** When it was written down, where that was later. */
const laterOf = (one: Schemas["ConditionOut"]) =>
  one.stored_at && Date.parse(one.stored_at) - Date.parse(one.at) > LATER
    ? ` (written down later, ${moment(one.stored_at, props.course.zone)})`
    : "";
const sentence = computed(() => {
  const last = all.value.at(-1);
  if (!last) return "";
  const parts = [
    last.temperature === null ? "" : `${honest(last.temperature, 3)} °C`,
    last.humidity === null ? "" : `${honest(last.humidity, 2)} % humid`,
    last.rain ? `${honest(last.rain, 2)} mm of rain` : "",
    last.light === null ? "" : `${honest(last.light, 2)} lx`,
  ].filter(Boolean);
  return `${moment(last.at, props.course.zone)}${last.place ? `, ${last.place}` : ""}: ${parts.join(", ")}${laterOf(last)}${last.device ? `, from the ${last.device.toLowerCase()}` : `, by ${last.by}`}.`;
});
</script>

<template>
  <section v-if="course.state !== 'draft'" class="mt-5 border-t-2 border-ink pt-3" aria-label="Conditions">
    <div class="flex flex-wrap items-baseline justify-between gap-3">
      <h2>Conditions</h2>
      <button
        v-if="!writing && course.role !== 'viewer'"
        type="button"
        class="quiet no-print"
        @click="writing = true"
      >
        Note them
      </button>
    </div>
    <p v-if="waits" class="text-soft" role="status">
      What you noted is kept on this device and sent by itself.
    </p>
    <p v-if="sentence">{{ sentence }}</p>
    <p v-else class="text-soft">
      None noted yet. Where there is a weather station, it is read when a round begins.
    </p>
    <svg
      v-if="all.length > 1"
      :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
      class="mt-2 w-full"
      role="img"
      :aria-label="`Temperature from ${ends.low} to ${ends.high} °C${wet.length ? ` and rain up to ${honest(wettest, 2)} mm` : ''}, ${all.length} notes`"
    >
      <path :d="`M34 8 V${HEIGHT - 22} H${WIDTH - 6}`" fill="none" stroke="var(--line)" stroke-width="1.5" />
      <rect
        v-for="one in wet"
        :key="`r${one.at}${one.place}`"
        :x="x(one.at) - 3"
        :y="HEIGHT - 22 - (50 * one.rain!) / wettest"
        width="6"
        :height="(50 * one.rain!) / wettest"
        fill="var(--soft)"
      />
      <template v-for="line in lines" :key="line.place">
        <polyline
          :points="line.own.map((one) => `${x(one.at)},${y(one.temperature!)}`).join(' ')"
          fill="none"
          stroke="var(--ink)"
          stroke-width="2"
          :stroke-dasharray="line.dashes"
        />
        <text v-if="line.place" :x="x(line.last.at) + 8" :y="y(line.last.temperature!) + 5" class="words">
          {{ line.place }}
        </text>
      </template>
      <circle
        v-for="one in warm"
        :key="`t${one.at}${one.place}`"
        :cx="x(one.at)"
        :cy="y(one.temperature!)"
        r="3"
        fill="var(--ink)"
      />
      <text x="30" :y="y(ends.high) + 5" text-anchor="end" class="words">{{ ends.high }} °C</text>
      <text x="30" :y="y(ends.low) + 4" text-anchor="end" class="words">{{ ends.low }}</text>
      <text x="34" :y="HEIGHT - 5" class="words">{{ weekday(all[0]!.at, course.zone) }}</text>
      <text :x="x(all.at(-1)!.at)" :y="HEIGHT - 5" text-anchor="end" class="words">
        {{ weekday(all.at(-1)!.at, course.zone) }}
      </text>
      <text v-if="wet.length" :x="WIDTH - 6" :y="HEIGHT - 26" text-anchor="end" class="words">
        bars: rain, to {{ honest(wettest, 2) }} mm
      </text>
    </svg>
    <svg
      v-if="bright.length > 1"
      :viewBox="`0 0 ${WIDTH} 70`"
      class="mt-1 w-full"
      role="img"
      :aria-label="`Light up to ${honest(brightest, 2)} lx`"
    >
      <path :d="`M34 4 V50 H${WIDTH - 6}`" fill="none" stroke="var(--line)" stroke-width="1.5" />
      <circle
        v-for="one in bright"
        :key="`l${one.at}${one.place}`"
        :cx="x(one.at)"
        :cy="50 - (42 * one.light!) / brightest"
        r="3"
        fill="none"
        stroke="var(--ink)"
        stroke-width="1.6"
      />
      <text x="34" y="66" class="words">Light, to {{ honest(brightest, 2) }} lx at the top</text>
    </svg>
    <form
      v-if="writing"
      class="no-print mt-2 grid max-w-3xl grid-cols-2 items-start gap-3 sm:grid-cols-5"
      @submit.prevent="note(false)"
    >
      <label v-if="course.blocks.length" class="block"
        ><span class="mb-1 block text-[0.9rem] text-soft">At</span
        ><select v-model="now.place" class="field">
          <option value="">all places</option>
          <option v-for="one in course.blocks" :key="one.key" :value="one.key">{{ one.name }}</option></select
        ><ProblemText :says="says('place')"
      /></label>
      <NumberField v-model="now.temperature" label="Temperature" unit="°C" :says="says('temperature')" />
      <NumberField v-model="now.humidity" label="Humidity" unit="%" :says="says('humidity')" />
      <NumberField v-model="now.rain" label="Rain" unit="mm" :says="says('rain')" />
      <NumberField v-model="now.light" label="Light" unit="lx" :says="says('light')" />
      <label class="col-span-2 block"
        ><span class="mb-1 block text-[0.9rem] text-soft">On another day than now</span
        ><input v-model="then" type="datetime-local" class="field" :max="fieldOf(rightNow())" /><ProblemText
          :says="says('at')"
      /></label>
      <p class="col-span-2 flex flex-wrap gap-2 sm:col-span-5">
        <button class="press press-small press-main" :disabled="busy">Note them</button
        ><button type="button" class="press press-small" :disabled="busy" @click="note(true)">
          Read the weather station</button
        ><button type="button" class="quiet" @click="writing = false">Leave it</button>
      </p>
    </form>
    <ProblemText :says="other" />
  </section>
</template>

<style scoped>
.words {
  font-size: 13px;
  fill: var(--soft);
}
</style>
