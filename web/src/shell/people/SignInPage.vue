<script setup lang="ts">
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import DoorPage from "./DoorPage.vue";
import { pageOf } from "./joining";
import { useAct } from "@/shell/act";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { isLeaving, signIn } from "@/shell/api/accounts";
import { queryClient, useDemo } from "@/shell/query";

const route = useRoute();
const router = useRouter();
const email = ref("");
const password = ref("");
const { busy, says, other, through } = useAct(["email", "password"]);
const demo = useDemo();
const leaving = isLeaving();

const submit = () =>
  through(async () => {
    await signIn(email.value, password.value);
    queryClient.clear();
    await router.push(pageOf(route.query.to));
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
    <form class="grid gap-4" @submit.prevent="submit">
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
    </form>
    <p class="mt-4 flex flex-wrap gap-x-6">
      <RouterLink class="quiet inline-flex items-center" :to="{ name: 'join', query: route.query }"
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
