<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import DoorPage from "./DoorPage.vue";
import ElsewherePart from "./ElsewherePart.vue";
import { pageOf } from "./joining";
import { useAct } from "@/shell/act";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { comeInByPasskey, passkeysHere } from "@/shell/api/passkeys";
import { isLeaving, signIn } from "@/shell/api/accounts";
import { secondStep, stillAsked } from "@/shell/api/secondStep";
import { answer, api } from "@/shell/api/client";
import { queryClient, useDemo, useElsewhere, useOpenDoor } from "@/shell/query";

const route = useRoute();
const router = useRouter();
const email = ref("");
const password = ref("");
const code = ref("");
/** The password was right, and a code is asked as well. */
const second = ref(false);
const { busy, says, other, through } = useAct(["email", "password", "code"]);
const demo = useDemo();
const openDoor = useOpenDoor();
const leaving = isLeaving();

const submit = () =>
  through(async () => {
    if (second.value) await secondStep(code.value.replaceAll(" ", ""));
    else second.value = await signIn(email.value, password.value);
    if (second.value && !code.value) return;
    queryClient.clear();
    await router.push(pageOf(route.query.to));
  });

/** Whether a passkey could be used here. */
const possible = passkeysHere();
const byPasskey = (after: "nothing" | "password") =>
  through(async () => {
    await comeInByPasskey(after);
    queryClient.clear();
    await router.push(pageOf(route.query.to));
  });

const elsewhere = useElsewhere();
/** Somebody comes back from elsewhere: led on where they are in now, and told where they are not. */
const notIn = ref(false);
onMounted(async () => {
  if (!route.query.back) return;
  try {
    await answer(api.GET("/api/me"));
    queryClient.clear();
    await router.replace(pageOf(route.query.to));
  } catch {
    second.value = await stillAsked().catch(() => false);
    notIn.value = !second.value;
  }
});

function fill(address: string): void {
  email.value = address;
  password.value = "tarn-lane-demo";
}
</script>

<template>
  <DoorPage title="Sign in">
    <p v-if="leaving" role="status" class="mb-4 border-l-4 border-ink pl-3">
      You are signed out on this device, and nothing you looked at is left on it. The server hears of it as
      soon as it can be reached; until then nobody can sign in here.
    </p>
    <p v-if="notIn" role="alert" class="mb-4 border-l-4 border-ink pl-3">
      {{ elsewhere || "That sign-in" }} did not let you in here: it turned you down, did not tell a confirmed
      address, or only members who were invited may join.
    </p>
    <form v-if="second" class="grid gap-4" @submit.prevent="submit">
      <LabelledField
        v-model="code"
        label="Code"
        inputmode="numeric"
        autocomplete="one-time-code"
        hint="From the app on your phone, or one of those you keep on paper."
        :says="says('code')"
      />
      <ProblemText :says="other" />
      <button class="press press-main" :disabled="busy || !code.trim()">Sign in</button>
      <button v-if="possible" type="button" class="press" :disabled="busy" @click="byPasskey('password')">
        Use a passkey
      </button>
    </form>
    <form v-else class="grid gap-4" @submit.prevent="submit">
      <LabelledField
        v-model="email"
        label="E-mail"
        type="email"
        autocomplete="username"
        :says="says('email')"
      />
      <LabelledField
        v-model="password"
        label="Password"
        type="password"
        autocomplete="current-password"
        :says="says('password')"
      />
      <ProblemText :says="other" />
      <button class="press press-main" :disabled="busy">Sign in</button>
      <button v-if="possible" type="button" class="press" :disabled="busy" @click="byPasskey('nothing')">
        Sign in with a passkey
      </button>
    </form>
    <ElsewherePart v-if="!second" :to="pageOf(route.query.to)" />
    <p class="mt-4 flex flex-wrap gap-x-6">
      <RouterLink
        v-if="openDoor"
        class="quiet inline-flex items-center"
        :to="{ name: 'join', query: route.query }"
        >Join</RouterLink
      >
      <RouterLink class="quiet inline-flex items-center" to="/forgotten">Forgotten the password?</RouterLink>
    </p>
    <div v-if="demo" class="rule mt-6 pt-5">
      <p class="font-bold">This is the demo of the Tarn Lane Growers’ Society.</p>
      <p class="mt-1 text-soft">All people and products in it are made up. Step in as</p>
      <div class="mt-3 flex flex-wrap gap-2">
        <button class="press press-small" @click="fill('lead@tarnlane.example')">Maren, the lead</button>
        <button class="press press-small" @click="fill('scorer@tarnlane.example')">
          Tobit, who scores blind
        </button>
      </div>
      <p class="mt-3 text-soft">
        Letters are not sent here; they land in <RouterLink to="/mailbox">the mailbox</RouterLink>.
      </p>
    </div>
  </DoorPage>
</template>
