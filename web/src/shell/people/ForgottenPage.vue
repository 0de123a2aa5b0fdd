<script setup lang="ts">
import { ref } from "vue";

import DoorPage from "./DoorPage.vue";
import { useAct } from "@/shell/act";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { askForNewPassword } from "@/shell/api/accounts";
import { useDemo } from "@/shell/query";

const email = ref("");
const sent = ref(false);
const { busy, says, other, through } = useAct(["email"]);
const demo = useDemo();
const submit = () =>
  through(async () => {
    await askForNewPassword(email.value);
    sent.value = true;
  });
</script>

<template>
  <DoorPage title="A new password">
    <template v-if="sent">
      <p>If {{ email }} has an account, a letter with a link is on its way. The link works once.</p>
      <RouterLink v-if="demo" to="/mailbox" class="press mt-5">Open the demo’s mailbox</RouterLink>
    </template>
    <form v-else class="grid gap-4" @submit.prevent="submit">
      <LabelledField
        v-model="email"
        label="E-mail"
        type="email"
        autocomplete="username"
        :says="says('email')"
      />
      <ProblemText :says="other" />
      <button class="press press-main" :disabled="busy">Send me a link</button>
    </form>
    <p class="mt-4">
      <RouterLink class="quiet inline-flex items-center" to="/sign-in">Back to sign in</RouterLink>
    </p>
  </DoorPage>
</template>
