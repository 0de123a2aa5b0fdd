<script setup lang="ts">
/** A line of the log: when, which sample, what happened to it, and by whom. */
import { computed } from "vue";

import { honest, reading, type Scale } from "@/parts/amounts";
import { clock, moment } from "@/parts/moments";
import { WHAT } from "./log";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{
  entry: Schemas["LogEntry"];
  zone: string;
  trial: string;
  scale: Scale | undefined;
}>();
function told(value: number | null): string {
  if (value === null) return "";
  return props.scale ? reading(value, props.scale) : honest(value, 6);
}
const about = computed(() =>
  ["difference", "no_outcome", "split"].includes(props.entry.what)
    ? `${props.entry.outcome} `
    : props.entry.what === "skipped"
      ? `${props.entry.checkpoint} `
      : "",
);
/** What happened, in words; empty for a note and a reading, which have their own. */
const happened = computed(() => {
  const { accident, since, reason, what } = props.entry;
  if (!WHAT[what]) return "";
  const on = since ? moment(since, props.zone) : "";
  const when = what === "amended" ? `decided ${on}` : on;
  const which = accident ? `; ${accident}${on ? ` on ${on}` : ""}` : on ? ` (${when})` : "";
  return `${about.value}${WHAT[what]}${which}${reason && what !== "sealed" ? `: ${reason}` : ""}`;
});
const written = computed(() => (props.entry.written_at ? moment(props.entry.written_at, props.zone) : ""));
const read = computed(() => {
  const { outcome, checkpoint, what, reason, source } = props.entry;
  const how =
    what === "cannot"
      ? ` could not be scored: ${reason}`
      : what === "withdrawn"
        ? " taken back"
        : reason
          ? `, ${reason}`
          : "";
  const later = written.value ? `, written down later, ${written.value}` : "";
  return `${outcome}, ${checkpoint}${how}${source ? `, ${source}` : ""}${later}`;
});
</script>

<template>
  <li class="line" :class="{ 'text-soft': entry.replaced }">
    <span class="when">{{ clock(entry.at, zone) }}</span>
    <span class="code which">{{ entry.code }}</span>
    <span class="what">
      <template v-if="happened">{{ happened }}</template>
      <template v-else-if="entry.what === 'note'"
        >{{ entry.words
        }}<span v-if="entry.reason" class="block text-[0.92rem] text-soft">{{ entry.reason }}</span
        ><span v-if="entry.photos.length" class="mt-1 flex gap-2"
          ><a
            v-for="one in entry.photos"
            :key="one"
            :href="`/api/photos/${one}.jpg`"
            target="_blank"
            rel="noopener"
            ><img
              :src="`/api/photos/${one}.jpg?small=true`"
              alt="Photo of this note"
              class="h-24 bg-ground"
              loading="lazy" /></a></span
      ></template>
      <template v-else>{{ read }}</template>
    </span>
    <span class="value">
      <span v-if="entry.words && entry.what !== 'note'" class="block max-w-72">{{ entry.words }}</span>
      <s v-if="entry.replaced">{{ told(entry.value) }}</s>
      <b v-else class="font-semibold">{{ told(entry.value) }}</b>
      <RouterLink
        v-if="entry.again && !entry.replaced"
        class="quiet no-print -my-2 ml-1 inline-flex items-center text-[0.92rem]"
        :to="{
          name: 'round',
          params: { id: trial, checkpoint: entry.again.look },
          query: { at: entry.again.sample, again: entry.again.outcome },
        }"
        :aria-label="`Read ${entry.code} again`"
        >read again</RouterLink
      >
      <span v-if="entry.old_value !== null && !entry.replaced" class="text-soft"
        >, was {{ told(entry.old_value) }}</span
      >
      <span v-if="entry.what === 'sealed'" class="code font-normal" :title="entry.reason"
        >{{ entry.reason.slice(0, 12) }}…</span
      >
    </span>
    <span class="by text-soft">{{ entry.by }}</span>
  </li>
</template>

<style scoped>
.line {
  display: grid;
  grid-template: "when which value" auto "what what by" auto / 3.6rem minmax(0, 1fr) auto;
  column-gap: 0.8rem;
  padding: 0.5rem 0;
  border-bottom: 1px solid var(--line);
  overflow-wrap: break-word;
  /* Lines that are not on the screen are not drawn. */
  content-visibility: auto;
  contain-intrinsic-size: auto 66px;
}
@media print {
  .line {
    content-visibility: visible;
    padding: 0.2rem 0;
  }
}
.when {
  grid-area: when;
}
.which {
  grid-area: which;
}
.what {
  grid-area: what;
  min-width: 0;
}
.value {
  grid-area: value;
  text-align: right;
}
.by {
  grid-area: by;
  text-align: right;
}
.line {
  break-inside: avoid;
}
@media print, (min-width: 48rem) {
  .line {
    grid-template: "when which what value by" auto / 3.6rem 4.6rem minmax(0, 1fr) minmax(0, 14rem) 9rem;
  }
  .value,
  .by {
    text-align: left;
  }
}
</style>
