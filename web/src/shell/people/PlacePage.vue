<script setup lang="ts">
/** For whoever administers this place: members, storage, long work, letters that failed, and who came and
 * went. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";

import LabelledField from "@/parts/LabelledField.vue";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TeamsPart from "./TeamsPart.vue";
import WideTable from "@/parts/WideTable.vue";
import { sure } from "@/parts/sure";
import { here, moment, wholeDay } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { problemsOf } from "@/shell/api/problems";
import { useMe } from "@/shell/query";
import { keys } from "@/shell/queryKeys";

const AT_ONCE = 50;
const WORDS: Record<Schemas["Happening"], string> = {
  joined: "joined",
  signed_in: "signed in",
  refused: "was refused: wrong password or code",
  signed_out: "signed out",
  password: "changed the password",
  invited: "invited somebody",
  came: "took up an invitation",
  withdrawn: "withdrew an invitation",
  left_out: "was taken out of a trial",
  token_made: "made a token",
  token_revoked: "revoked a token",
  erased: "left for good",
  second_step: "set up a second step",
  no_second_step: "took the second step away",
  switched_off: "was switched off",
  switched_on: "was switched on again",
  may_begin: "may begin trials",
  may_not_begin: "may begin no more trials",
};
const zone = here();
const client = useQueryClient();
const sought = ref("");
const beyond = ref(0);
watch(sought, () => (beyond.value = 0));
const { data: place, error } = useQuery({
  queryKey: keys.place("stands"),
  queryFn: () => answer(api.GET("/api/place")),
  refetchInterval: 30_000,
});
const { data: found } = useQuery({
  queryKey: keys.place("members", sought, beyond),
  queryFn: () =>
    answer(
      api.GET("/api/place/members", { params: { query: { sought: sought.value, beyond: beyond.value } } }),
    ),
  placeholderData: keepPreviousData,
});
const { data: audit } = useQuery({
  queryKey: keys.place("audit"),
  queryFn: () => answer(api.GET("/api/place/audit")),
});
const { data: me } = useMe();
const { busy, other, through } = useAct([]);
const changed = (one: Schemas["Member"], body: Schemas["SwitchIn"]) =>
  through(async () => {
    await answer(api.POST("/api/place/members/{user_id}", { params: { path: { user_id: one.id } }, body }));
    await client.invalidateQueries({ queryKey: keys.place() });
  });
const many = (amount: number) => amount.toLocaleString("en-GB");
function size(bytes: number): string {
  const [unit, times] = bytes < 1e9 ? (["MB", 1e6] as const) : (["GB", 1e9] as const);
  return `${(bytes / times).toFixed(bytes / times < 10 ? 1 : 0)} ${unit}`;
}
const amounts = computed(() => {
  const now = place.value;
  if (!now) return [];
  return [
    { name: "Members", value: many(now.members), more: `${many(now.active)} signed in these 30 days` },
    {
      name: "Trials",
      value: many(now.storage.trials),
      more: `${many(now.storage.readings)} readings in them`,
    },
    {
      name: "Database",
      value: size(now.storage.bytes),
      more: now.storage.outside
        ? `${many(now.storage.photos)} photos; new ones lie in the store beside it`
        : `${many(now.storage.photos)} photos among it`,
    },
    {
      name: "Long work",
      value: now.queue.waiting + now.queue.running ? `${now.queue.waiting} waiting` : "none",
      more: now.queue.oldest
        ? `since ${moment(now.queue.oldest, zone)}`
        : `${now.queue.running} being done, ${now.queue.failed} failed`,
    },
  ];
});
</script>

<template>
  <NothingHere v-if="error" :says="sure(problemsOf(error)[0]).says" />
  <div v-else class="mx-auto max-w-6xl p-4 lg:px-8 lg:py-6">
    <main class="sheet mt-4 p-4 lg:p-8">
      <h1>This place</h1>
      <p class="mt-1 max-w-3xl text-soft">
        People and amounts. Of trials nothing is told here, not even a title; to see one, be invited to it.
        <template v-if="place">Field Tally {{ place.version }}.</template>
      </p>
      <dl class="mt-5 grid gap-x-8 gap-y-4 sm:grid-cols-2 lg:grid-cols-4">
        <div v-for="one in amounts" :key="one.name" class="border-t-2 border-ink pt-2">
          <dt class="text-[0.95rem] text-soft">{{ one.name }}</dt>
          <dd class="text-[1.6rem] leading-tight font-bold">{{ one.value }}</dd>
          <dd class="text-[0.95rem]">{{ one.more }}</dd>
        </div>
      </dl>
      <p v-if="place?.queue.last_failed.length" class="mt-4">
        <b>Failed last:</b> {{ place.queue.last_failed.join(", ") }}. The log says why.
      </p>
      <section v-if="place?.letters.length" class="mt-8" aria-label="Letters that could not be sent">
        <h2>Letters that could not be sent</h2>
        <WideTable class="mt-2" label="Letters that could not be sent"
          ><table class="figures">
            <thead>
              <tr>
                <th scope="col">To</th>
                <th scope="col">Subject</th>
                <th scope="col">What the mail host said</th>
                <th scope="col">When</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(one, i) in place.letters" :key="i">
                <th scope="row" class="break-all">{{ one.to }}</th>
                <td>{{ one.subject }}</td>
                <td>{{ one.says }}</td>
                <td>{{ moment(one.at, zone) }}</td>
              </tr>
            </tbody>
          </table></WideTable
        >
      </section>
      <section class="mt-8 border-t-2 border-ink pt-3" aria-label="Members">
        <h2>Members</h2>
        <div class="mt-2 max-w-md"><LabelledField v-model="sought" label="Name or address" /></div>
        <p v-if="found" class="mt-2 text-soft" role="status">
          {{
            found.found === 0
              ? "Nobody has that in their name or address."
              : `${many(beyond + 1)} to ${many(beyond + found.members.length)} of ${many(found.found)}`
          }}
        </p>
        <ul v-if="found" class="mt-1">
          <li
            v-for="one in found.members"
            :key="one.id"
            class="rule grid gap-x-6 py-2 sm:grid-cols-[minmax(0,1fr)_minmax(0,1.9fr)_9rem] sm:items-center"
          >
            <span class="min-w-0"
              ><b class="break-words">{{ one.name || one.email }}</b
              ><template v-if="one.administers">, administers</template
              ><span v-if="!one.on" class="font-bold"> (switched off)</span><br /><span
                class="break-all text-soft"
                >{{ one.email }}</span
              ></span
            >
            <span class="text-[0.95rem]">
              {{ one.trials === 1 ? "1 trial" : `${one.trials} trials` }};
              {{ one.last_login ? `last signed in ${moment(one.last_login, zone)}` : "never signed in" }};
              {{ one.second_step ? "two steps" : "password alone"
              }}<template v-if="place?.chosen && (one.begins_trials || one.administers)"
                >; begins trials</template
              >; here since
              {{ wholeDay(one.joined_at, zone) }}
            </span>
            <span class="flex flex-wrap gap-x-3 sm:block">
              <button
                v-if="one.id !== me?.id"
                type="button"
                class="quiet"
                :disabled="busy"
                :aria-label="`Switch ${one.on ? 'off' : 'on'} ${one.name || one.email}`"
                @click="changed(one, { on: !one.on, begins_trials: null })"
              >
                Switch {{ one.on ? "off" : "on" }}
              </button>
              <button
                v-if="place?.chosen && !one.administers && one.on"
                type="button"
                class="quiet"
                :disabled="busy"
                :aria-label="`${one.name || one.email} ${one.begins_trials ? 'begins no more trials' : 'may begin trials'}`"
                @click="changed(one, { on: null, begins_trials: !one.begins_trials })"
              >
                {{ one.begins_trials ? "No more trials" : "May begin trials" }}
              </button>
            </span>
          </li>
        </ul>
        <p v-if="found && found.found > AT_ONCE" class="mt-3 flex gap-3">
          <button type="button" class="press" :disabled="beyond === 0" @click="beyond -= AT_ONCE">
            Newer
          </button>
          <button
            type="button"
            class="press"
            :disabled="beyond + AT_ONCE >= found.found"
            @click="beyond += AT_ONCE"
          >
            Older
          </button>
        </p>
        <ProblemText :says="other" />
      </section>
      <TeamsPart />
      <section v-if="audit?.length" class="mt-8 border-t-2 border-ink pt-3" aria-label="Who came and went">
        <h2>Who came and went</h2>
        <ul class="mt-1">
          <li v-for="(one, i) in audit" :key="i" class="rule py-1.5 text-[0.95rem]">
            {{ moment(one.at, zone) }}:
            <b>{{ one.name || "Somebody unknown" }}</b>
            {{ WORDS[one.what] }}<template v-if="one.address">, from {{ one.address }}</template>
          </li>
        </ul>
      </section>
    </main>
  </div>
</template>
