<script setup lang="ts">
/** Teams of a place: members who are asked to a trial together.  Made, changed and done away with here. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";
import { keys } from "@/shell/queryKeys";

type Team = Schemas["PlaceTeam"];
const client = useQueryClient();
const { data: teams } = useQuery({
  queryKey: keys.place("teams"),
  queryFn: () => answer(api.GET("/api/place/teams")),
});
/** The team that is made or changed, as it will be; `id` null: a new one. */
const open = ref<{ id: number | null; name: string; members: Team["members"] } | null>(null);
const sought = ref("");
const { data: found } = useQuery({
  queryKey: keys.place("to choose", sought),
  queryFn: () =>
    answer(api.GET("/api/place/members", { params: { query: { sought: sought.value, beyond: 0 } } })),
  enabled: computed(() => open.value !== null),
  placeholderData: keepPreviousData,
});
const left = computed(() => {
  const chosen = new Set(open.value?.members.map((one) => one.id));
  return (found.value?.members ?? []).filter((one) => one.on && !chosen.has(one.id)).slice(0, 8);
});
const { busy, says, other, through } = useAct(["name", "members"]);
function begin(team: Team | null): void {
  sought.value = "";
  open.value = team ? { ...team, members: [...team.members] } : { id: null, name: "", members: [] };
}
const keep = () =>
  through(async () => {
    if (!open.value) return;
    const { id: team_id, name } = open.value;
    const body = { name, members: open.value.members.map((one) => one.id) };
    await (team_id === null
      ? answer(api.POST("/api/place/teams", { body }))
      : answer(api.PUT("/api/place/teams/{team_id}", { params: { path: { team_id } }, body })));
    open.value = null;
    await client.invalidateQueries({ queryKey: keys.place("teams") });
  });
const drop = (team_id: number) =>
  through(async () => {
    await answer(api.DELETE("/api/place/teams/{team_id}", { params: { path: { team_id } } }));
    await client.invalidateQueries({ queryKey: keys.place("teams") });
  });
</script>

<template>
  <section class="mt-8 border-t-2 border-ink pt-3" aria-label="Teams">
    <h2>Teams</h2>
    <p class="mt-1 max-w-3xl text-soft">
      Members who are asked together. Whoever leads a trial may invite one; each of them says yes for
      themselves.
    </p>
    <ul class="mt-1">
      <li v-for="one in teams" :key="one.id" class="rule flex items-center gap-4 py-1.5">
        <span class="min-w-0 grow"
          ><b>{{ one.name }}</b
          ><span class="block text-[0.95rem] text-soft">{{
            one.members.map((each) => each.name).join(", ")
          }}</span></span
        >
        <button type="button" class="quiet" :aria-label="`Change ${one.name}`" @click="begin(one)">
          Change
        </button>
        <TakeOut :what="one.name" @out="drop(one.id)" />
      </li>
    </ul>
    <button type="button" class="press mt-3" @click="begin(null)">Make a team</button>
    <ProblemText :says="open ? undefined : other" />
    <DialogSheet
      :open="open !== null"
      :title="open?.id ? 'Change a team' : 'Make a team'"
      @close="open = null"
    >
      <form v-if="open" class="mt-4 grid gap-4" @submit.prevent="keep">
        <LabelledField
          v-model="open.name"
          label="Its name"
          placeholder="Thursday tasters"
          :says="says('name')"
        />
        <div>
          <h3 class="font-bold">Who belongs to it</h3>
          <ul class="mt-1">
            <li v-for="(one, i) in open.members" :key="one.id" class="rule flex items-center gap-3">
              <span class="grow">{{ one.name }}</span>
              <TakeOut :what="one.name" @out="open.members.splice(i, 1)" />
            </li>
          </ul>
          <ProblemText :says="says('members')" />
        </div>
        <div>
          <LabelledField v-model="sought" label="Add somebody: name or address" />
          <ul class="mt-2 flex flex-wrap gap-2">
            <li v-for="one in left" :key="one.id">
              <button
                type="button"
                class="press press-small"
                @click="open.members.push({ id: one.id, name: one.name || one.email })"
              >
                {{ one.name || one.email }}
              </button>
            </li>
          </ul>
        </div>
        <ProblemText :says="other" />
        <div class="flex gap-3">
          <button class="press press-main" :disabled="busy">Keep it</button>
          <button type="button" class="press" @click="open = null">Leave it</button>
        </div>
      </form>
    </DialogSheet>
  </section>
</template>
