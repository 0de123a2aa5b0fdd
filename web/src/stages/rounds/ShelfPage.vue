<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The shelf: every trial as a line in time, what is due first. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import ShelfActs from "./ShelfActs.vue";
import ShelfRow from "./ShelfRow.vue";
import { shelved, urgency, type ShelfGroup, type ShelfOrder, type ShelfTrial } from "./shelf";
import FoldPart from "@/parts/FoldPart.vue";
import LabelledField from "@/parts/LabelledField.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { problemsOf } from "@/shell/api/problems";
import { answer, api } from "@/shell/api/client";
import { useNow } from "@/shell/now";
import { useAct } from "@/shell/act";
import { queryClient, useMe, useShelf } from "@/shell/query";

const GLANCE = 9;
const router = useRouter();
const { data: shelf, error } = useShelf();
const now = useNow();
const trials = computed(() => shelf.value?.trials ?? []);
const waiting = computed(() => trials.value.filter((one) => !one.filed && urgency(one) < 2).length);
const wanted = ref("");
const order = ref<ShelfOrder>("due");
const groups = computed(() => shelved(trials.value, wanted.value, order.value));
/** More trials than are seen at a glance: then they can be searched, and stand in groups. */
const many = computed(() => trials.value.length > GLANCE || trials.value.some((one) => one.filed));
const folded = (group: ShelfGroup) =>
  !wanted.value && (group.key === "filed" || (group.key === "concluded" && group.trials.length > GLANCE));
const trialsOf = ({ trials: own }: ShelfGroup) => (own.length === 1 ? "1 trial" : `${own.length} trials`);
const acting = ref<ShelfTrial | null>(null);

const { data: me } = useMe();
const naming = ref(false);
const title = ref("");
/** Whether it has begun already. */
const runs = ref(false);
const { busy, says, other, through } = useAct(["title"]);
const begin = () =>
  through(async () => {
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const { id } = await answer(
      api.POST("/api/trials", { body: { title: title.value, zone, begun: runs.value } }),
    );
    await queryClient.invalidateQueries({ queryKey: keys.shelf() });
    await router.push({ name: "plan", params: { id } });
    runs.value = false;
  });
</script>

<template>
  <div class="mx-auto max-w-6xl p-4 lg:px-8 lg:py-6">
    <main>
      <div class="flex flex-wrap items-end justify-between gap-4 lg:mt-2">
        <h1 class="text-[2rem]">
          <template v-if="waiting"
            >{{ waiting === 1 ? "One trial waits" : `${waiting} trials wait` }} for you today.</template
          >
          <template v-else-if="trials.length">Nothing is due right now.</template>
          <template v-else-if="shelf">Your shelf is empty.</template>
        </h1>
        <div v-if="me?.may_begin !== false" class="flex flex-wrap items-center gap-3">
          <RouterLink class="press" to="/bring">Bring in results</RouterLink>
          <RouterLink class="press" to="/tasting">Hold a tasting</RouterLink>
          <button class="press press-main" @click="naming = true">Begin a trial</button>
        </div>
      </div>
      <ProblemText v-if="error" :says="problemsOf(error)[0]!.says" />
      <p v-if="me?.may_begin === false" class="mt-3 max-w-xl">
        Trials are begun here by chosen members; ask whoever administers this place to be one. Invitations to
        a trial come by letter or link.
      </p>
      <p v-else-if="shelf && !trials.length" class="mt-3 max-w-xl">
        Begin a trial to compare products, substances or methods side by side, or follow an invitation to one.
      </p>
      <div v-if="many" class="mt-5 flex flex-wrap items-end gap-4">
        <LabelledField
          v-model="wanted"
          class="w-full max-w-md grow"
          label="On the shelf"
          placeholder="a few letters"
        />
        <label class="block"
          ><span class="mb-1 block text-[0.9rem] text-soft">First comes</span>
          <select v-model="order" class="field">
            <option value="due">what is due</option>
            <option value="newest">the newest</option>
            <option value="name">A to Z</option>
          </select></label
        >
      </div>
      <p v-if="many && !groups.length" class="mt-5">
        No trial has “{{ wanted.trim() }}” in its name or question.
      </p>
      <template v-for="group in groups" :key="`${group.key} ${folded(group)}`">
        <component
          :is="many ? FoldPart : 'div'"
          class="mt-3 first-of-type:mt-6"
          v-bind="many ? { title: group.name, inside: trialsOf(group), unfolded: !folded(group) } : {}"
        >
          <ul class="grid gap-3">
            <ShelfRow
              v-for="trial in group.trials"
              :key="trial.id"
              :trial="trial"
              :now="now"
              @more="acting = trial"
            />
          </ul>
        </component>
      </template>
    </main>
    <ShelfActs v-if="acting" :trial="acting" @close="acting = null" />
    <DialogSheet :open="naming" title="Begin a trial" @close="naming = false">
      <form class="mt-4 grid gap-4" @submit.prevent="begin">
        <LabelledField
          v-model="title"
          label="What do you call it?"
          placeholder="Cut dahlias in the vase"
          :says="says('title')"
          hint="Name what is looked at, not what is compared: scorers read it."
        />
        <label class="flex min-h-11 items-start gap-3"
          ><input v-model="runs" type="checkbox" class="mt-0.5 h-6 w-6 flex-none accent-ink" /><span
            >It has begun already<span class="block text-soft"
              >Sown, set up or soaking since some day: its days, places and the looks in your notebook are
              taken up as they were.</span
            ></span
          ></label
        >
        <ProblemText :says="other" />
        <div class="flex gap-3">
          <button class="press press-main" :disabled="busy">Begin</button>
          <button type="button" class="press" @click="naming = false">Not now</button>
        </div>
      </form>
    </DialogSheet>
  </div>
</template>
