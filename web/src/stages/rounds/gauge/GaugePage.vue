<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** The photo gauge: tried on one photo with what it counts laid over it, then run over all of a look and kept
 * as readings.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { useRouter } from "vue-router";

import DoubtLine from "./DoubtLine.vue";
import GaugeEyes from "./GaugeEyes.vue";
import GaugeSettings, { type Pick } from "./GaugeSettings.vue";
import GaugeStage, { type Tool } from "./GaugeStage.vue";
import GaugeStrip from "./GaugeStrip.vue";
import { plainMarks, plainRecipe, useGauge } from "./useGauge";
import NothingHere from "@/parts/NothingHere.vue";
import PartLinks from "@/parts/PartLinks.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { honest } from "@/parts/amounts";
import { moment } from "@/parts/moments";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf, saysAt } from "@/shell/api/problems";
import { queryClient, trialChanged } from "@/shell/query";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{
  id: string;
  course: Schemas["CourseOut"];
  checkpoint?: string;
  outcome?: string;
}>();
const router = useRouter();
const path = { trial_id: props.id };
const { data, error } = useQuery({
  queryKey: keys.gauge(props.id),
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/gauge", { params: { path } })),
});
const outcomes = computed(() => data.value?.outcomes ?? []);
const outcome = computed(() => outcomes.value.find((one) => one.key === props.outcome) ?? outcomes.value[0]);
const looks = computed(() =>
  (data.value?.looks ?? []).filter((one) => outcome.value?.checkpoints.includes(one.key)),
);
const look = computed(
  () =>
    looks.value.find((one) => one.key === props.checkpoint) ??
    [...looks.value].reverse().find((one) => one.photos) ??
    looks.value.at(-1),
);
const where = (outcomeKey: string, lookKey: string) => ({
  name: "gauge",
  params: { id: props.id, checkpoint: lookKey, outcome: outcomeKey },
});
const key = computed(() => keys.gauge(props.id, look.value?.key, outcome.value?.key));
const { data: table, refetch } = useQuery({
  queryKey: key,
  queryFn: () =>
    answer(
      api.GET("/api/trials/{trial_id}/gauge/{checkpoint}/{outcome}", {
        params: { path: { ...path, checkpoint: sure(look.value).key, outcome: sure(outcome.value).key } },
      }),
    ),
  enabled: computed(() => Boolean(look.value && outcome.value)),
  refetchInterval: (query) => (query.state.data?.run && !query.state.data.run.ended ? 700 : false),
});
const photo = ref("");
const shot = computed(() => table.value?.photos.find((one) => one.photo === photo.value));
const gauge = useGauge(
  props.id,
  photo,
  computed(() => outcome.value?.key ?? ""),
);
const { recipe, marks, tried, problems, busy, refused } = gauge;
const tool = ref<Tool>("round");
const bare = ref(false);
const stage = ref<InstanceType<typeof GaugeStage>>();
const picks = ref<{ counts: Pick[]; ignores: Pick[]; steps: Pick[] }>({ counts: [], ignores: [], steps: [] });
const byHand = ref(false);

/** Another outcome or look: begin with how it is measured already, on the photo where that was set. */
watch(
  [table, outcome],
  ([now, what]) => {
    if (!now || !what || !now.photos.length || now.photos.some((one) => one.photo === photo.value)) return;
    const settled = now.recipe;
    const first = settled ? now.photos.find((one) => one.photo === settled.photo) : undefined;
    photo.value = (first ?? sure(now.photos[0])).photo;
    start(settled, what);
  },
  { immediate: true },
);
watch(outcome, (what, before) => {
  if (what && before && what.key !== before.key) photo.value = "";
});
function start(settled: Schemas["RecipeOut"] | null, what: Schemas["GaugedOutcome"]): void {
  recipe.value = settled
    ? { ...settled.recipe }
    : {
        ...plainRecipe(sure(what.measures[0]).key),
        since_look: looks.value.length
          ? (sure(data.value).looks.find((one) => one.photos && one.key !== sure(look.value).key)?.key ?? "")
          : "",
      };
  marks.value = settled ? { ...settled.marks } : plainMarks();
  const shown = (labs: readonly (readonly number[])[]) =>
    labs.map((lab) => ({ lab: [...lab] as Pick["lab"], shown: `lab(${lab[0]}% ${lab[1]} ${lab[2]})` }));
  picks.value = { counts: shown(recipe.value.counts), ignores: shown(recipe.value.ignores), steps: [] };
  if (sure(what.measures[0]).key === "shade" && !recipe.value.steps.length) chart(what);
}
/** The chart's colours as the plan has them. */
function chart(what: Schemas["GaugedOutcome"]): void {
  if (what.labs.length === what.steps.length) recipe.value = { ...recipe.value, steps: what.labs };
}
function take(one: string): void {
  const chosen = table.value?.photos.find((each) => each.photo === one);
  photo.value = one;
  byHand.value = Boolean(chosen?.gauging);
  if (chosen?.gauging) marks.value = { ...chosen.gauging.marks };
  toPhoto();
}
/** The photo comes into sight when something is to be done on it. */
const shown = ref<HTMLElement>();
function toPhoto(): void {
  const calm = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
  shown.value?.scrollIntoView({ behavior: calm ? "auto" : "smooth", block: "start" });
}
watch(tool, toPhoto);
const { busy: acting, says, other, through } = useAct(["area"]);
async function pick(x: number, y: number): Promise<void> {
  await through(async () => {
    const found = await gauge.pick(x, y);
    const one: Pick = { lab: found.lab as Pick["lab"], shown: found.shown };
    if (tool.value === "step") {
      const steps =
        picks.value.steps.length >= sure(outcome.value).steps.length ? [one] : [...picks.value.steps, one];
      picks.value = { ...picks.value, steps };
      if (steps.length === sure(outcome.value).steps.length)
        recipe.value = { ...recipe.value, steps: steps.map((step) => step.lab) };
    } else if (tool.value === "counts" || tool.value === "ignores") {
      const list = [...picks.value[tool.value], one];
      picks.value = { ...picks.value, [tool.value]: list };
      recipe.value = { ...recipe.value, [tool.value]: list.map((each) => each.lab) };
    }
  });
}
function drop(list: "counts" | "ignores" | "steps", at: number): void {
  const left = at < 0 ? [] : picks.value[list].filter((_, i) => i !== at);
  picks.value = { ...picks.value, [list]: left };
  if (list === "steps") chart(sure(outcome.value));
  else recipe.value = { ...recipe.value, [list]: left.map((one) => one.lab) };
}
const runs = computed(() => Boolean(table.value?.run && !table.value.run.ended));
const all = () =>
  through(async () => {
    await answer(
      api.PUT("/api/trials/{trial_id}/gauge/recipe", {
        params: { path },
        body: {
          photo: photo.value,
          outcome: sure(outcome.value).key,
          recipe: recipe.value,
          marks: marks.value,
        },
      }),
    );
    await answer(
      api.POST("/api/trials/{trial_id}/gauge/{checkpoint}/{outcome}/run", {
        params: { path: { ...path, checkpoint: sure(look.value).key, outcome: sure(outcome.value).key } },
      }),
    );
    await refetch();
  });
const one = () =>
  through(async () => {
    await answer(
      api.POST("/api/trials/{trial_id}/gauge-one/{outcome}", {
        params: { path: { ...path, outcome: sure(outcome.value).key } },
        body: { photo: photo.value, marks: marks.value },
      }),
    );
    await refetch();
  });
const stop = () =>
  through(async () => {
    await answer(
      api.DELETE("/api/gauge-runs/{run_id}", {
        params: { path: { run_id: sure(sure(table.value).run).id } },
      }),
    );
    await refetch();
  });
const kept = ref("");
const keep = () =>
  through(async () => {
    const done = await answer(
      api.POST("/api/trials/{trial_id}/gauge/{checkpoint}/{outcome}/keep", {
        params: { path: { ...path, checkpoint: sure(look.value).key, outcome: sure(outcome.value).key } },
      }),
    );
    kept.value =
      done.written === 1
        ? "One reading written into your round."
        : `${done.written} readings written into your round.`;
    await refetch();
    await trialChanged(props.id);
    await queryClient.invalidateQueries({ queryKey: keys.agreement(props.id) });
  });
const measured = computed(() => table.value?.photos.filter((each) => each.gauging) ?? []);
const usable = computed(() => measured.value.filter((each) => sure(each.gauging).value !== null));
const others = computed(() =>
  usable.value.filter((each) => each.photo !== photo.value).map((each) => sure(sure(each.gauging).value)),
);
const waiting = computed(() => usable.value.some((each) => !sure(each.gauging).kept));
const may = computed(() => ["sealed", "running"].includes(props.course.state));
const told = computed(() => {
  if (!tried.value) return "";
  if (tried.value.value === null) return "no reading";
  return honest(tried.value.value, 3);
});
const measuredAs = computed(() => {
  const words = outcome.value?.measures.find((each) => each.key === recipe.value.measure)?.words ?? "";
  const from =
    data.value?.looks.find((each) => each.key === recipe.value.since_look)?.name ?? recipe.value.since_sample;
  return `${shot.value?.code}, ${words}${recipe.value.measure === "difference" && from ? ` since ${from}` : ""}`;
});
const step = computed(() =>
  tried.value?.nearest && outcome.value
    ? `nearest: ${tried.value.nearest}, ${outcome.value.steps[tried.value.nearest - 1]?.toLowerCase()}`
    : "",
);
const problem = (at: string) => saysAt(problems.value, at) ?? says(at);
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <div class="flex flex-wrap items-baseline justify-between gap-x-6">
      <h1>Measured in photos</h1>
      <p class="flex flex-wrap gap-x-4">
        <RouterLink class="quiet inline-flex items-center" :to="{ name: 'photos', params: { id } }"
          >All photos</RouterLink
        ><a class="quiet inline-flex items-center" :href="`/api/trials/${id}/prints/photo-card.pdf`"
          >Print the photo card</a
        >
      </p>
    </div>
    <p v-if="data && !outcomes.length" class="mt-3 max-w-2xl">
      No outcome of this trial can be told from a photo. A share, a shade on a chart, a count, a colour, a
      length or an area can: name one in the plan.
    </p>
    <template v-else-if="outcome && look">
      <PartLinks
        v-if="outcomes.length > 1"
        class="mt-2"
        label="Outcomes"
        :here="outcome.key"
        :parts="outcomes.map((each) => ({ key: each.key, name: each.name, to: where(each.key, look!.key) }))"
      />
      <p v-else class="mt-2 font-bold">{{ outcome.name }}</p>
      <label v-if="looks.length > 1" class="mt-3 block max-w-64"
        ><span class="mb-1 block text-[0.9rem] text-soft">Look</span
        ><select
          class="field"
          :value="look.key"
          @change="router.push(where(outcome!.key, ($event.target as HTMLSelectElement).value))"
        >
          <option v-for="each in looks" :key="each.key" :value="each.key">
            {{ each.name }}, {{ each.photos }} photos
          </option>
        </select></label
      >
      <p v-if="table && !table.photos.length" class="mt-6 max-w-2xl">
        No photos of samples at this look yet.
        <RouterLink :to="{ name: 'photos', params: { id } }">Take them</RouterLink> with the photo card beside
        each sample, in one light.
      </p>
      <div
        v-else-if="shot"
        class="mt-4 grid items-start gap-6 lg:grid-cols-[minmax(0,1fr)_20rem] xl:grid-cols-[minmax(0,1fr)_23rem]"
      >
        <div ref="shown">
          <GaugeStage
            ref="stage"
            v-model:marks="marks"
            :photo="photo"
            :width="shot.width"
            :height="shot.height"
            :tool="tool"
            :tried="tried"
            :bare="bare"
            @pick="pick"
          />
          <div class="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
            <span class="code text-[1.5rem]">{{ shot.code }}</span>
            <button type="button" class="press press-small" :aria-pressed="bare" @click="bare = !bare">
              {{ bare ? "Show what counts" : "Show the bare photo" }}
            </button>
            <button
              v-if="tool === 'outline' && (stage?.open.length ?? 0) > 2"
              type="button"
              class="press press-small press-main"
              @click="stage?.close()"
            >
              Close the outline
            </button>
          </div>
        </div>
        <div>
          <div class="on-panel bg-panel p-4 text-panel-ink" role="status" :aria-busy="busy">
            <p class="text-panel-soft">{{ measuredAs }}</p>
            <p v-if="tried" class="text-[2.4rem] leading-tight font-bold">
              {{ told }}
              <span v-if="tried.value !== null" class="text-[1.1rem] font-normal"
                >± {{ honest(tried.uncertainty ?? 0, 1) }} {{ tried.unit }}</span
              >
            </p>
            <p v-else class="text-[1.2rem]">{{ problems[0]?.says ?? "measuring …" }}</p>
            <DoubtLine
              v-if="tried && tried.value !== null && tried.uncertainty"
              :value="tried.value"
              :unsure="tried.uncertainty"
              :others="others"
              :unit="tried.unit"
            />
            <p v-if="step">{{ step }}</p>
            <p v-if="tried && tried.value !== null" class="mt-2 flex items-center gap-3">
              <span
                class="inline-block h-9 w-14 flex-none border border-panel-ink"
                :style="{ background: tried.shown }"
              /><span
                >in daylight: L* {{ honest(tried.colour[0]!, 3) }}, a* {{ honest(tried.colour[1]!, 3) }}, b*
                {{ honest(tried.colour[2]!, 3) }}</span
              >
            </p>
            <ul v-if="tried?.flags.length" class="mt-2 grid gap-1">
              <li v-for="flag in tried.flags" :key="flag.key" class="border-l-4 border-panel-ink pl-2">
                <b v-if="flag.refuses">Refused. </b>{{ flag.says }}
              </li>
            </ul>
          </div>
          <template v-if="may">
            <div class="mt-4 flex flex-wrap gap-3">
              <button
                type="button"
                class="press press-main"
                :disabled="acting || runs || !tried || refused"
                @click="all"
              >
                Measure all {{ table!.photos.length }} like this
              </button>
              <button
                v-if="byHand && table!.recipe"
                type="button"
                class="press"
                :disabled="acting || !tried"
                @click="one"
              >
                Only {{ shot.code }} with these marks
              </button>
            </div>
            <ProblemText class="mt-2" :says="other" />
            <p v-if="table!.recipe" class="mt-3 text-soft">
              Set by {{ table!.recipe.by }}, {{ moment(table!.recipe.at, course.zone) }}; the same for every
              sample and look.
            </p>
          </template>
          <p v-else class="mt-3">
            {{
              course.state === "opened"
                ? "The key is open: what was measured stands."
                : "Photos are measured once the plan is sealed."
            }}
          </p>
        </div>
      </div>
      <GaugeSettings
        v-if="shot && may"
        v-model:recipe="recipe"
        v-model:marks="marks"
        v-model:tool="tool"
        class="mt-6"
        :outcome="outcome"
        :looks="data!.looks"
        :look="look.key"
        :says="problem"
        :found="(tried?.card.length ?? 0) > 0"
        :picks="picks"
        @drop="drop"
      />
      <section v-if="table?.photos.length" class="mt-8 border-t-2 border-ink pt-3" aria-label="All photos">
        <div class="flex flex-wrap items-center justify-between gap-x-6 gap-y-2">
          <h2>
            {{
              runs
                ? `Measuring: ${table.run!.done} of ${table.run!.total}`
                : measured.length
                  ? `${usable.length} of ${table.photos.length} photos measured`
                  : `${table.photos.length} photos at ${look.name}`
            }}
          </h2>
          <button v-if="runs" type="button" class="press press-small" :disabled="acting" @click="stop">
            Stop
          </button>
          <button
            v-if="may && usable.length && !runs"
            type="button"
            class="press press-main"
            :disabled="acting || !waiting"
            @click="keep"
          >
            {{ waiting ? "Keep as readings" : "All kept as readings" }}
          </button>
        </div>
        <progress v-if="runs" class="run mt-2" :value="table.run!.done" :max="table.run!.total">
          {{ table.run!.done }} of {{ table.run!.total }}
        </progress>
        <ProblemText :says="table.run?.failed" />
        <p v-if="kept" class="mt-2 font-bold" role="status">{{ kept }}</p>
        <p v-if="may && table.otherwise" class="mt-2 max-w-2xl border-l-4 border-ink pl-2">
          {{
            table.otherwise === 1
              ? "One reading of this look was kept with other settings than those above"
              : `${table.otherwise} readings of this look were kept with other settings than those above`
          }}: measure all again and keep them, so that all are measured alike.
        </p>
        <GaugeStrip class="mt-4" :photos="table.photos" :unit="table.unit" :here="photo" @take="take" />
      </section>
      <GaugeEyes v-if="table" :table="table" />
    </template>
  </section>
</template>

<style scoped>
.run {
  display: block;
  width: 100%;
  height: 12px;
  appearance: none;
  border: 2px solid var(--ink);
  background: var(--sheet);
}
.run::-webkit-progress-bar {
  background: var(--sheet);
}
.run::-webkit-progress-value {
  background: var(--ink);
}
.run::-moz-progress-bar {
  background: var(--ink);
}
</style>
