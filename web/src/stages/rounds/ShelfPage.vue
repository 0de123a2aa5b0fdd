<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The shelf: every trial as a line in time, what is due first. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import ShelfRow from "./ShelfRow.vue";
import LabelledField from "@/parts/LabelledField.vue";
import DialogSheet from "@/parts/DialogSheet.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { problemsOf } from "@/shell/api/problems";
import { answer, api } from "@/shell/api/client";
import { useNow } from "@/shell/now";
import { useAct } from "@/shell/act";
import { queryClient, useShelf } from "@/shell/query";

const router = useRouter();
const { data: shelf, error } = useShelf();
const now = useNow();
const ORDER: Record<string, number> = { due: 0, late: 1 };
const urgency = (trial: { state: string; checkpoints: { standing: string }[] }) =>
  trial.state === "running"
    ? Math.min(2, ...trial.checkpoints.map((stop) => ORDER[stop.standing] ?? 2))
    : trial.state === "opened"
      ? 4
      : 3;
const trials = computed(() => [...(shelf.value?.trials ?? [])].sort((a, b) => urgency(a) - urgency(b)));
const waiting = computed(() => trials.value.filter((trial) => trial.may_score && urgency(trial) < 2).length);

const naming = ref(false);
const title = ref("");
const { busy, says, other, through } = useAct(["title"]);
const begin = () =>
  through(async () => {
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const { id } = await answer(api.POST("/api/trials", { body: { title: title.value, zone } }));
    await queryClient.invalidateQueries({ queryKey: keys.shelf() });
    await router.push({ name: "plan", params: { id } });
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
        <div class="flex flex-wrap items-center gap-3">
          <RouterLink class="press" to="/bring">Bring in results</RouterLink>
          <button class="press press-main" @click="naming = true">Begin a trial</button>
        </div>
      </div>
      <ProblemText v-if="error" :says="problemsOf(error)[0]!.says" />
      <p v-if="shelf && !trials.length" class="mt-3 max-w-xl">
        Begin a trial to compare products, substances or methods side by side, or follow an invitation to one.
      </p>
      <ul class="mt-6 grid gap-3">
        <ShelfRow v-for="trial in trials" :key="trial.id" :trial="trial" :now="now" />
      </ul>
    </main>
    <DialogSheet :open="naming" title="Begin a trial" @close="naming = false">
      <form class="mt-4 grid gap-4" @submit.prevent="begin">
        <LabelledField
          v-model="title"
          label="What do you call it?"
          placeholder="Cut dahlias in the vase"
          :says="says('title')"
          hint="Name what is looked at, not what is compared: scorers read it."
        />
        <ProblemText :says="other" />
        <div class="flex gap-3">
          <button class="press press-main" :disabled="busy">Begin</button>
          <button type="button" class="press" @click="naming = false">Not now</button>
        </div>
      </form>
    </DialogSheet>
  </div>
</template>
