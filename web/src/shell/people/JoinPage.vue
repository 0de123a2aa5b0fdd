<script setup lang="ts">
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import DoorPage from "./DoorPage.vue";
import { useAct } from "@/shell/act";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { join } from "@/shell/api/accounts";
import { queryClient } from "@/shell/query";

const route = useRoute();
const router = useRouter();
const name = ref("");
const email = ref("");
const password = ref("");
const { busy, says, other, through } = useAct(["name", "email", "password"]);

const submit = () =>
  through(async () => {
    await join(name.value, email.value, password.value);
    queryClient.clear();
    const to = String(route.query.to ?? "/");
    await router.push(to.startsWith("/") && !to.startsWith("//") ? to : "/");
  });
</script>

<template>
  <DoorPage title="Join">
    <form class="grid gap-4" @submit.prevent="submit">
      <LabelledField v-model="name" label="Your name" autocomplete="name" hint="What others in a trial see." :says="says('name')" />
      <LabelledField v-model="email" label="E-mail" type="email" autocomplete="username" :says="says('email')" />
      <LabelledField v-model="password" label="Password" type="password" autocomplete="new-password" hint="At least 10 letters; a few words together are good." :says="says('password')" />
      <ProblemText :says="other" />
      <button class="press press-main" :disabled="busy">Join</button>
    </form>
    <p class="mt-4"><RouterLink class="quiet inline-flex items-center" :to="{ name: 'sign-in', query: route.query }">I have an account</RouterLink></p>
  </DoorPage>
</template>
