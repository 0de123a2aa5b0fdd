<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from "vue";
import { useRoute } from "vue-router";

import PlacesFrame from "@/shell/frame/PlacesFrame.vue";
import ShortcutList from "@/shell/frame/ShortcutList.vue";
import WaitingHere from "@/shell/frame/WaitingHere.vue";
import { announced, headingIn, rest } from "@/shell/arrival";
import { finding } from "@/shell/frame/finding";
import { useMeHere } from "@/shell/query";
import { useKey } from "@/shell/shortcuts";

const route = useRoute();
const me = useMeHere();
// It knows all pages by name: that is loaded when somebody looks for something.
const FinderSheet = defineAsyncComponent(() => import("@/shell/frame/FinderSheet.vue"));
const sought = ref(false);
watch(finding, (open) => (sought.value ||= open));
useKey("/", "find a trial, a code, a treatment, a page or a sum", () => (finding.value = Boolean(me.value)));
function toContent(): void {
  const target = headingIn() ?? document.getElementById("content");
  if (target) rest(target);
}
const framed = computed(
  () =>
    route.matched.length > 0 &&
    !route.meta.alone &&
    (!route.meta.open || (Boolean(me.value) && ["guide", "mailbox"].includes(String(route.name)))),
);
</script>

<template>
  <a href="#content" class="skip no-print" @click.prevent="toContent">To the content</a>
  <PlacesFrame v-if="framed" />
  <div id="content" tabindex="-1" :class="{ framed }"><RouterView /></div>
  <p class="sr-only" aria-live="polite">{{ announced }}</p>
  <FinderSheet v-if="sought" />
  <ShortcutList />
  <WaitingHere />
</template>
