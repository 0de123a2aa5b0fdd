<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** One's account: tokens for programs of one's own, and leaving with what is one's own. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { isListed, keysOff } from "@/shell/shortcuts";
import { moment } from "@/parts/moments";
import { answer, api } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import PasswordChange from "./PasswordChange.vue";
import PasskeysPart from "./PasskeysPart.vue";
import TwoSteps from "./TwoSteps.vue";
import { queryClient, useMe, useShelf } from "@/shell/query";
import { goOut } from "./goOut";

const client = useQueryClient();
const { data: me } = useMe();
const { data: shelf } = useShelf();
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
const { data } = useQuery({ queryKey: keys.tokens(), queryFn: () => answer(api.GET("/api/tokens")) });
const { data: going } = useQuery({
  queryKey: keys.leaving(),
  queryFn: () => answer(api.GET("/api/account/leaving")),
});
const name = ref("");
const scope = ref<"read" | "write">("read");
const trial = ref("");
const fresh = ref("");
const leaving = ref(false);
const email = ref("");
const { busy, says, other, through } = useAct(["name", "trial", "email"]);
const make = () =>
  through(async () => {
    const made = await answer(
      api.POST("/api/tokens", { body: { name: name.value, scope: scope.value, trial: trial.value || null } }),
    );
    fresh.value = made.token;
    name.value = "";
    await client.invalidateQueries({ queryKey: keys.tokens() });
  });
const revoke = (id: string) =>
  through(async () => {
    await answer(api.DELETE("/api/tokens/{token_id}", { params: { path: { token_id: id } } }));
    await client.invalidateQueries({ queryKey: keys.tokens() });
  });
const leave = () =>
  through(async () => {
    await answer(api.POST("/api/account/leave", { body: { email: email.value } }));
    queryClient.clear();
    location.assign("/sign-in");
  });
</script>

<template>
  <div class="mx-auto max-w-4xl p-4 lg:px-8 lg:py-6">
    <main class="sheet mt-4 p-4 lg:p-8">
      <div class="flex flex-wrap items-start justify-between gap-4">
        <div>
          <h1>{{ me?.name ?? "Your account" }}</h1>
          <p class="text-soft">{{ me?.email }}</p>
        </div>
        <p class="flex flex-wrap items-center gap-3">
          <RouterLink v-if="me?.administers" to="/place" class="quiet inline-flex items-center"
            >This place</RouterLink
          >
          <RouterLink v-if="me?.demo" to="/mailbox" class="quiet inline-flex items-center"
            >Mailbox</RouterLink
          >
          <button type="button" class="press" @click="goOut">Sign out</button>
        </p>
      </div>
      <PasswordChange />
      <TwoSteps />
      <PasskeysPart />
      <section class="mt-8 border-t-2 border-ink pt-3" aria-label="Tokens">
        <h2>Programs of your own</h2>
        <p class="mt-1">
          A token lets a program do what you may do, as far as you say. Every door is listed in
          <a href="/api/reference" target="_blank" rel="noopener">the reference of the API</a>.
        </p>
        <ul v-if="data?.tokens.length" class="mt-3">
          <li
            v-for="one in data.tokens"
            :key="one.id"
            class="rule flex flex-wrap items-center justify-between gap-x-4 gap-y-1 py-2"
          >
            <span
              ><b>{{ one.name }}</b
              >, {{ one.scope === "read" ? "reads" : "reads and writes"
              }}{{ one.trial ? ` in ${one.trial_title}` : "" }}</span
            ><span class="text-soft">{{
              one.used_at ? `last used ${moment(one.used_at, zone)}` : "never used"
            }}</span
            ><button class="quiet" :disabled="busy" @click="revoke(one.id)">Revoke</button>
          </li>
        </ul>
        <div v-if="fresh" class="mt-3 border-2 border-ink p-3" role="status">
          <p class="font-bold">Copy it now; it is not shown again.</p>
          <p class="code mt-1 font-normal break-all">{{ fresh }}</p>
        </div>
        <form class="mt-4 grid items-end gap-3 sm:grid-cols-3" @submit.prevent="make">
          <LabelledField
            v-model="name"
            label="What it is for"
            placeholder="Shed computer"
            :says="says('name')"
          />
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft">It may</span
            ><select v-model="scope" class="field">
              <option value="read">read</option>
              <option value="write">read and write</option>
            </select></label
          >
          <label class="block"
            ><span class="mb-1 block text-[0.9rem] text-soft">in</span
            ><select v-model="trial" class="field">
              <option value="">all my trials</option>
              <option v-for="one in shelf?.trials ?? []" :key="one.id" :value="one.id">
                {{ one.title }}
              </option>
            </select></label
          >
          <button class="press press-main justify-self-start" :disabled="busy">Make a token</button>
        </form>
        <ProblemText :says="leaving ? '' : other" />
      </section>
      <section class="mt-8 border-t-2 border-ink pt-3" aria-label="Keys">
        <h2>Keys on this device</h2>
        <label class="mt-1 flex min-h-11 items-center gap-3"
          ><input v-model="keysOff" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> Switch off
          shortcuts that are one key alone</label
        >
        <p class="max-w-2xl text-soft">
          For whoever speaks to the machine, or would press them unawares. Ctrl and / lists what a page has,
          and gives each another key.
        </p>
        <button type="button" class="press mt-3" @click="isListed = true">See and change the keys</button>
      </section>
      <section class="mt-8 border-t-2 border-ink pt-3" aria-label="Leaving">
        <h2>Leaving</h2>
        <p class="mt-1 max-w-2xl">
          Your account is erased, with your tokens and tools. Trials that are yours alone go with all they
          hold; in trials of others what you did stays, under no name. Take along what you want to keep first:
          every trial has its pack.
        </p>
        <button class="press mt-3" @click="leaving = true">I want to leave</button>
      </section>
    </main>
    <DialogSheet :open="leaving" title="Erase your account?" @close="leaving = false">
      <p v-if="going?.alone.length" class="mt-2">
        These go with it, for good: <b>{{ going.alone.join(", ") }}</b>.
      </p>
      <p v-if="going?.shared" class="mt-2">
        In {{ going.shared === 1 ? "one trial" : `${going.shared} trials` }} of others you become “Somebody
        who left”.
      </p>
      <p v-if="going?.held.length" class="mt-2">
        Others scored in these: they stay, with nobody left who may read them:
        <b>{{ going.held.join(", ") }}</b>. Invite another lead first, if somebody should.
      </p>
      <form class="mt-4 grid gap-4" @submit.prevent="leave">
        <LabelledField
          v-model="email"
          label="Your e-mail address, as a sign that you mean it"
          autocomplete="off"
          :says="says('email')"
        /><ProblemText :says="other" />
        <div class="flex flex-wrap gap-3">
          <button class="press press-main" :disabled="busy">Erase it</button
          ><button type="button" class="press" @click="leaving = false">Stay</button>
        </div>
      </form>
    </DialogSheet>
  </div>
</template>
