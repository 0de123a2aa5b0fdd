<script setup lang="ts">
/** Comparisons of methods that this person has kept: opened again, thrown away; and the one
 * that is shown, kept under a name. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { ref, useId, watch } from "vue";
import { useRouter } from "vue-router";

import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { here, wholeDay } from "@/parts/moments";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";
import { keys } from "@/shell/queryKeys";

const props = defineProps<{
  /** What would be kept; null while nothing is compared. */
  given: Schemas["SideBySideIn"] | null;
}>();
const emit = defineEmits<{ opened: [given: Schemas["MethodsKeepIn"]] }>();
const id = useId();
const name = ref("");
const said = ref("");
const { busy, says, other, through } = useAct(["name"]);
const client = useQueryClient();
const router = useRouter();
const { data } = useQuery({
  queryKey: keys.methodsKept(),
  queryFn: () => answer(api.GET("/api/methods/kept")),
});
const renewed = () => client.invalidateQueries({ queryKey: keys.methodsKept() });
watch(
  () => props.given,
  () => (said.value = ""),
);
const keep = () =>
  through(async () => {
    if (!props.given) return;
    const kept = await answer(api.POST("/api/methods/kept", { body: { ...props.given, name: name.value } }));
    [name.value, said.value] = [kept.name, `Kept as “${kept.name}”.`];
    await renewed();
  });
/** A trial that asks the same of new samples, to be planned on from here. */
const begin = () =>
  through(async () => {
    if (!props.given) return;
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const { id: begun } = await answer(
      api.POST("/api/methods/trial", {
        body: { ...props.given, title: name.value || "Do they agree?", zone },
      }),
    );
    await client.invalidateQueries({ queryKey: keys.shelf() });
    await router.push({ name: "plan", params: { id: begun } });
  });
const open = (kept_id: string) =>
  through(async () => {
    const given = await answer(api.GET("/api/methods/kept/{kept_id}", { params: { path: { kept_id } } }));
    name.value = given.name;
    emit("opened", given);
  });
const throwAway = (kept_id: string) =>
  through(async () => {
    await answer(api.DELETE("/api/methods/kept/{kept_id}", { params: { path: { kept_id } } }));
    await renewed();
  });
</script>

<template>
  <section v-if="given || data?.kept.length" class="rule mt-6 pt-5" aria-label="Kept comparisons">
    <form v-if="given" class="flex flex-wrap items-end gap-3" @submit.prevent="keep">
      <label class="block w-full max-w-md"
        ><span class="mb-1 block text-[0.9rem] text-soft">Keep what was entered under a name</span
        ><input
          v-model="name"
          class="field"
          maxlength="120"
          :aria-invalid="says('name') ? true : undefined"
          :aria-describedby="`${id}-name`"
      /></label>
      <button class="press" :disabled="busy || !name.trim()">Keep</button>
      <button type="button" class="press" :disabled="busy" @click="begin">Make a trial of it</button>
      <p role="status" class="text-soft">{{ said }}</p>
      <ProblemText :id="`${id}-name`" :says="says('name')" />
    </form>
    <template v-if="data?.kept.length">
      <h2 :class="{ 'mt-5': given }">Kept before</h2>
      <ul class="mt-1 max-w-2xl">
        <li v-for="one in data.kept" :key="one.id" class="flex items-center gap-3">
          <button type="button" class="quiet min-w-0 grow text-left" @click="open(one.id)">
            <b class="break-words">{{ one.name }}</b>
            <span class="text-soft">, {{ wholeDay(one.at, here()) }}</span>
          </button>
          <TakeOut :what="one.name" @out="throwAway(one.id)" />
        </li>
      </ul>
    </template>
    <ProblemText :says="other" />
  </section>
</template>
