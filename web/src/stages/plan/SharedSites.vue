<script setup lang="ts">
/** Places that are kept for everybody here: taken into this plan, or kept from it. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { ref } from "vue";

import LendDialog from "./LendDialog.vue";
import { block } from "./fresh";
import type { Plan } from "./usePlan";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { useAct } from "@/shell/act";
import { answer, api } from "@/shell/api/client";
import { keys } from "@/shell/queryKeys";

defineProps<{ secrets: string[] }>();
const blocks = defineModel<Plan["layout"]["blocks"]>({ required: true });
const client = useQueryClient();
const { data: sites } = useQuery({ queryKey: keys.sites(), queryFn: () => answer(api.GET("/api/sites")) });
const lending = ref(false);
const { other, through } = useAct([]);
function take(places: { name: string; note: string }[]): void {
  const named = blocks.value.filter((one) => one.name.trim());
  const there = new Set(named.map((one) => one.name.trim().toLowerCase()));
  const fresh = places.filter((one) => !there.has(one.name.trim().toLowerCase()));
  blocks.value = [...named, ...fresh.map((one) => ({ ...block(), name: one.name, note: one.note }))];
}
const drop = (thing_id: number) =>
  through(async () => {
    const left = await answer(api.DELETE("/api/sites/{thing_id}", { params: { path: { thing_id } } }));
    client.setQueryData(keys.sites(), left);
  });
async function keep(name: string): Promise<void> {
  const places = blocks.value
    .filter((one) => one.name.trim())
    .map((one) => ({ name: one.name, note: one.note }));
  client.setQueryData(keys.sites(), await answer(api.POST("/api/sites", { body: { name, places } })));
}
</script>

<template>
  <div class="mt-3">
    <ul v-if="sites?.length" class="grid gap-1" aria-label="Places kept for everybody here">
      <li v-for="one in sites" :key="one.id" class="flex items-center gap-3">
        <button type="button" class="quiet text-left" @click="take(one.places)">
          Take “{{ one.name }}”: {{ one.places.map((place) => place.name).join(", ") }}
        </button>
        <TakeOut v-if="one.mine" :what="one.name" @out="drop(one.id)" />
      </li>
    </ul>
    <button v-if="blocks.some((one) => one.name.trim())" type="button" class="quiet" @click="lending = true">
      Keep these places for everybody here
    </button>
    <ProblemText :says="other" />
    <LendDialog
      v-if="lending"
      :holds="
        blocks
          .filter((one) => one.name.trim())
          .map((one) => [one.name, one.note].filter(Boolean).join(': '))
          .join(', ')
      "
      :secrets="secrets"
      placeholder="The two glasshouses"
      :keep="keep"
      @close="lending = false"
    />
  </div>
</template>
