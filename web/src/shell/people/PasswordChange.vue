<script setup lang="ts">
/** A new password for somebody who is signed in and knows the old one. */
import { ref } from "vue";

import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { useAct } from "@/shell/act";
import { changePassword } from "@/shell/api/accounts";

const old = ref("");
const fresh = ref("");
const set = ref(false);
const { busy, says, other, through } = useAct(["current_password", "new_password"]);
const change = () =>
  through(async () => {
    set.value = false;
    await changePassword(old.value, fresh.value);
    old.value = fresh.value = "";
    set.value = true;
  });
</script>

<template>
  <section class="mt-6 border-t-2 border-ink pt-3" aria-label="Password">
    <h2>Password</h2>
    <form class="mt-3 grid items-end gap-3 sm:grid-cols-3" @submit.prevent="change">
      <LabelledField
        v-model="old"
        type="password"
        label="Password so far"
        autocomplete="current-password"
        :says="says('current_password')"
      />
      <LabelledField
        v-model="fresh"
        type="password"
        label="New password"
        autocomplete="new-password"
        :says="says('new_password')"
      />
      <button class="press justify-self-start" :disabled="busy">Change it</button>
    </form>
    <ProblemText :says="other" />
    <p v-if="set" class="mt-2 font-bold" role="status">Changed. You stay signed in here.</p>
  </section>
</template>
