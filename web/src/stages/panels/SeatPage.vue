<script setup lang="ts">
/** Taking a seat over to this phone by the short code that the host gave out. */
import { ref } from "vue";
import { useRouter } from "vue-router";

import { moveSeat } from "./booth";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { useAct } from "@/shell/act";

const code = ref("");
const router = useRouter();
const { busy, says, other, through } = useAct(["code"]);
const move = () =>
  through(async () => {
    await router.push((await moveSeat(code.value)).link);
  });
</script>

<template>
  <main class="sheet mx-auto flex min-h-dvh max-w-xl flex-col px-4 py-5">
    <form class="my-auto grid gap-4" @submit.prevent="move">
      <h1>Sit down on this phone</h1>
      <p>The host reads out six digits. Your answers so far stay where they are; the other phone is free.</p>
      <LabelledField
        v-model="code"
        label="Code"
        autocomplete="one-time-code"
        placeholder="204 731"
        :says="says('code')"
      />
      <ProblemText :says="other" />
      <button class="press press-main min-h-[64px] text-[1.15rem]" :disabled="busy || !code.trim()">
        Take my seat
      </button>
    </form>
  </main>
</template>
