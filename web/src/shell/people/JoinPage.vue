<script setup lang="ts">
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import DoorPage from "./DoorPage.vue";
import { pageOf, wantedAfterJoining } from "./joining";
import { useAct } from "@/shell/act";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { join } from "@/shell/api/accounts";
import { queryClient, useDemo, useOpenDoor } from "@/shell/query";

const route = useRoute();
const router = useRouter();
const name = ref("");
const email = ref("");
const password = ref("");
const sent = ref(false);
const demo = useDemo();
const openDoor = useOpenDoor();
/** They came by the letter of an invitation. */
const invited = pageOf(route.query.to).startsWith("/invited/");
const { busy, says, other, through } = useAct(["name", "email", "password"]);

const submit = () =>
  through(async () => {
    const to = pageOf(route.query.to);
    wantedAfterJoining(to);
    if (await join(name.value, email.value, password.value)) {
      sent.value = true;
      return;
    }
    queryClient.clear();
    await router.push(to);
  });
</script>

<template>
  <DoorPage :title="sent ? 'A letter is on its way' : 'Join'">
    <div v-if="sent" class="mb-4">
      <p role="status">
        It goes to <b>{{ email }}</b>. Follow the link in it, and you are in. If that address has an account
        already, the letter says so.
      </p>
      <RouterLink v-if="demo" to="/mailbox" class="press mt-5">Open the demo’s mailbox</RouterLink>
    </div>
    <p v-if="!sent && !openDoor && !invited" class="mb-4 border-l-4 border-ink pl-3">
      Whoever joins here is invited by somebody. Follow the link in their letter first, in this browser.
    </p>
    <form v-if="!sent" class="grid gap-4" @submit.prevent="submit">
      <LabelledField
        v-model="name"
        label="Your name"
        autocomplete="name"
        hint="What others in a trial see."
        :says="says('name')"
      />
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
        autocomplete="new-password"
        hint="At least 10 letters; a few words together are good."
        :says="says('password')"
      />
      <ProblemText :says="other" />
      <button class="press press-main" :disabled="busy">Join</button>
    </form>
    <p class="mt-4">
      <RouterLink class="quiet inline-flex items-center" :to="{ name: 'sign-in', query: route.query }"
        >I have an account</RouterLink
      >
    </p>
  </DoorPage>
</template>
