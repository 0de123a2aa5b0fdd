<script setup lang="ts">
import { ref } from "vue";

import DoorPage from "./DoorPage.vue";
import { useAct } from "@/shell/act";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { setNewPassword } from "@/shell/api/accounts";

const props = defineProps<{ token: string }>();
const password = ref("");
const set = ref(false);
const { busy, says, other, through } = useAct(["password"]);
const submit = () =>
  through(async () => {
    await setNewPassword(props.token, password.value);
    set.value = true;
  });
</script>

<template>
  <DoorPage title="Choose a new password">
    <template v-if="set">
      <p>Your new password is set.</p>
      <RouterLink to="/sign-in" class="press press-main mt-5">Sign in</RouterLink>
    </template>
    <form v-else class="grid gap-4" @submit.prevent="submit">
      <LabelledField
        v-model="password"
        label="New password"
        type="password"
        autocomplete="new-password"
        hint="At least 10 letters; a few words together are good."
        :says="says('password')"
      />
      <ProblemText :says="other" />
      <button class="press press-main" :disabled="busy">Set it</button>
    </form>
  </DoorPage>
</template>
