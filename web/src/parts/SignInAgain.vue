<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The sign-in has run out: it is mended here, with everything kept. */
import { ref } from "vue";

import LabelledField from "./LabelledField.vue";
import ProblemText from "./ProblemText.vue";
import { signIn } from "@/shell/api/accounts";
import { useAct } from "@/shell/act";
import { resume } from "@/shell/outbox";
import type { Schemas } from "@/shell/api/client";
import { queryClient } from "@/shell/query";

const emit = defineEmits<{ in: [] }>();
/** Whose page this is: what stands on it is theirs, so nobody else signs in here. */
const me = queryClient.getQueryData<Schemas["Me"]>(keys.me());
const known = me?.email;
const email = ref(known ?? "");
const password = ref("");
const { busy, says, other, through } = useAct(["email", "password"]);
const submit = () =>
  through(async () => {
    await signIn(email.value, password.value);
    password.value = "";
    if (me) void resume(me.id);
    emit("in");
  });
</script>

<template>
  <section class="mt-3 grid max-w-xl gap-3 border-2 border-ink p-4" aria-label="Sign in again">
    <p>
      <b>Your sign-in has run out.</b> Nothing is lost: what you typed is on this page and this device. Sign
      in here, and it is kept.
    </p>
    <p v-if="known">
      As <b>{{ known }}</b>
    </p>
    <LabelledField
      v-else
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
      @keydown.enter.prevent="submit"
    />
    <ProblemText :says="other" />
    <p>
      <button type="button" class="press press-main" :disabled="busy" @click="submit">
        Sign in and keep it
      </button>
    </p>
  </section>
</template>
