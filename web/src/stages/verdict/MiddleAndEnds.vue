<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** What the figures looked like: of each treatment the sample in the middle and those at both ends, where
 * there are photos of them; and how its
 * grades lie on the scale. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import FoldPart from "@/parts/FoldPart.vue";
import LetterChip from "./LetterChip.vue";
import { amount } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{
  id: string;
  verdict: Schemas["VerdictOut"];
  outcome: Schemas["JudgedOut"];
  main: Schemas["Finding"];
}>();
const { data } = useQuery({
  queryKey: keys.photos(computed(() => props.id)),
  queryFn: () =>
    answer(api.GET("/api/trials/{trial_id}/photos", { params: { path: { trial_id: props.id } } })),
});
const better = computed(() => (props.main.comparison.column.better === "more" ? 1 : -1));
/** Samples of a treatment, worst first. */
const ordered = (letter: string) =>
  props.verdict.samples
    .filter((one) => one.letter === letter && one.numbers[props.outcome.key] !== undefined)
    .map((one) => ({ code: one.code, number: sure(one.numbers[props.outcome.key]) }))
    .sort((a, b) => better.value * (a.number - b.number));
const photoOf = (code: string) => {
  const own = (data.value?.photos ?? []).filter((one) => one.code === code && !one.outcome);
  return own.find((one) => one.checkpoint === props.outcome.judged_at) ?? own.at(-1);
};
const rows = computed(() =>
  props.verdict.treatments.flatMap((one) => {
    const samples = ordered(one.letter);
    const places =
      samples.length > 2
        ? ([
            ["worst", 0],
            ["middle", Math.floor(samples.length / 2)],
            ["best", samples.length - 1],
          ] as const)
        : samples.length
          ? ([["middle", 0]] as const)
          : [];
    const shown = places.flatMap(([place, i]) => {
      const photo = photoOf(sure(samples[i]).code);
      return photo ? [{ place, ...sure(samples[i]), photo }] : [];
    });
    return shown.length ? [{ ...one, shown }] : [];
  }),
);
const levels = computed(() =>
  props.outcome.scale.kind === "grade" && props.main.scale.kind === "grade" ? props.outcome.scale.levels : [],
);
const tallest = computed(() =>
  Math.max(
    1,
    ...props.verdict.treatments.flatMap((one) => levels.value.map((level) => many(one.letter, level.value))),
  ),
);
const many = (letter: string, value: number) =>
  ordered(letter).filter((one) => Math.abs(one.number - value) < 1e-9).length;
const lookOf = (key: string) => props.outcome.looks.find((one) => one.key === key)?.name ?? "";
</script>

<template>
  <FoldPart
    v-if="levels.length"
    title="How the grades lie"
    inside="How many of each treatment got which grade, in the words of the scale."
    :unfolded="verdict.treatments.length <= 8"
  >
    <WideTable label="How the grades lie" class="min-w-0" :stack="false">
      <table class="mt-2 border-separate border-spacing-x-2">
        <tbody>
          <tr v-for="(one, i) in verdict.treatments" :key="one.letter" :data-hue="i % 8">
            <th scope="row" class="pr-3 text-left whitespace-nowrap">
              <LetterChip :treatments="verdict.treatments" :name="one.name" />
              <span class="font-normal">{{ one.name }}</span>
            </th>
            <td v-for="level in levels" :key="level.value" class="h-16 w-12 align-bottom">
              <span class="grid justify-items-center"
                ><span v-if="many(one.letter, level.value)" class="text-[0.9rem]">{{
                  many(one.letter, level.value)
                }}</span
                ><span
                  class="block w-9 bg-(--hue)"
                  :style="{ height: `${(40 * many(one.letter, level.value)) / tallest}px` }"
              /></span>
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td />
            <td
              v-for="level in levels"
              :key="level.value"
              class="border-t-2 border-ink pt-1 text-center align-top"
            >
              <b>{{ level.label }}</b><span class="block max-w-16 text-[0.85rem] leading-tight text-soft">{{
                level.anchor
              }}</span>
            </td>
          </tr>
        </tfoot>
      </table>
    </WideTable>
  </FoldPart>
  <FoldPart
    v-if="rows.length"
    title="The middle and the ends"
    inside="What it looked like: of each treatment the sample in the middle, and those at both ends."
  >
    <ul class="mt-2 grid gap-4">
      <li v-for="row in rows" :key="row.letter" class="flex flex-wrap items-start gap-x-4 gap-y-2">
        <span class="w-full sm:w-44"
          ><LetterChip :treatments="verdict.treatments" :name="row.name" /> {{ row.name }}</span
        >
        <figure v-for="one in row.shown" :key="one.place" class="w-36">
          <img
            :src="`/api/photos/${one.photo.id}.jpg?small=true`"
            :alt="`${one.code}, the ${one.place} one of ${row.name}`"
            class="w-36"
            loading="lazy"
          />
          <figcaption class="text-[0.9rem]">
            {{ one.place }}: <span class="code">{{ one.code }}</span>, {{ amount(one.number, main.scale)
            }}<template v-if="lookOf(one.photo.checkpoint)">, {{ lookOf(one.photo.checkpoint) }}</template>
          </figcaption>
        </figure>
      </li>
    </ul>
  </FoldPart>
</template>
