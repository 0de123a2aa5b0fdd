<script setup lang="ts">
/** Signing in in two steps: set up with an app on the phone, codes on paper for the day it is lost, taken
 * away. */
import { computed, onMounted, ref } from "vue";

import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { useAct } from "@/shell/act";
import { codesOnPaper, itIsMe, newSecondStep, turnOff, turnOn, twoSteps } from "@/shell/api/secondStep";
import { answer, api } from "@/shell/api/client";

type Wish = "on" | "off" | "codes";
const state = ref<{ on: boolean; left: number }>();
const wish = ref<Wish | null>(null);
const password = ref("");
const code = ref("");
const setUp = ref<{ secret: string; picture: string } | null>(null);
const codes = ref<string[]>([]);
const said = ref("");
const { busy, says, other, through } = useAct(["password", "code"]);
const grouped = computed(() => setUp.value?.secret.match(/.{1,4}/g)?.join(" ") ?? "");
const look = () => through(async () => void (state.value = await twoSteps()));
onMounted(look);

function begin(what: Wish): void {
  [wish.value, password.value, code.value, said.value] = [what, "", "", ""];
  [setUp.value, codes.value] = [null, []];
}
/** Whoever sits at an open device does not take the second step away: the password is asked first. */
const proven = () =>
  through(async () => {
    await itIsMe(password.value);
    password.value = "";
    if (wish.value === "on") {
      const { secret, totp_url } = await newSecondStep();
      const { picture } = await answer(api.POST("/api/account/square", { body: { text: totp_url } }));
      setUp.value = { secret, picture };
      return;
    }
    if (wish.value === "codes") codes.value = await codesOnPaper(true);
    if (wish.value === "off") {
      await turnOff();
      said.value = "Your password alone signs you in now.";
    }
    wish.value = null;
    state.value = await twoSteps();
  });
const confirmed = () =>
  through(async () => {
    await turnOn(code.value.replaceAll(" ", ""));
    codes.value = await codesOnPaper();
    [wish.value, setUp.value] = [null, null];
    said.value = "On. From the next time on a code is asked after your password.";
    state.value = await twoSteps();
  });
</script>

<template>
  <section class="mt-8 border-t-2 border-ink pt-3" aria-label="Two steps">
    <h2>Two steps to sign in</h2>
    <p class="mt-1 max-w-2xl">
      {{
        state?.on
          ? `On: a code from your phone is asked after the password. ${state.left} of the codes on paper ${state.left === 1 ? "is" : "are"} left.`
          : "Off. With it a code from an app on your phone is asked after the password, so that the password alone opens nothing."
      }}
    </p>
    <p v-if="state && !wish" class="mt-3 flex flex-wrap gap-3">
      <button v-if="!state.on" type="button" class="press" @click="begin('on')">Set it up</button>
      <template v-else>
        <button type="button" class="press" @click="begin('codes')">New codes on paper</button>
        <button type="button" class="press" @click="begin('off')">Turn it off</button>
      </template>
    </p>
    <form v-if="wish && !setUp" class="mt-3 flex max-w-xl flex-wrap items-end gap-3" @submit.prevent="proven">
      <div class="grow">
        <LabelledField
          v-model="password"
          type="password"
          label="Your password, to show that it is you"
          autocomplete="current-password"
          :says="says('password')"
        />
      </div>
      <button class="press press-main" :disabled="busy || !password">Go on</button>
      <button type="button" class="press" @click="wish = null">Leave it</button>
    </form>
    <form v-if="setUp" class="mt-3 grid max-w-2xl gap-4 sm:grid-cols-[auto_1fr]" @submit.prevent="confirmed">
      <img
        :src="setUp.picture"
        alt="A square that holds the key for your app"
        class="h-44 w-44 border border-hair bg-white"
      />
      <div class="grid content-start gap-3">
        <p>
          Take it with the app on your phone that gives codes, or type this key into it:
          <span class="code block font-normal select-all">{{ grouped }}</span>
        </p>
        <LabelledField
          v-model="code"
          label="The code it shows now"
          inputmode="numeric"
          autocomplete="one-time-code"
          :says="says('code')"
        />
        <p class="flex flex-wrap gap-3">
          <button class="press press-main" :disabled="busy || !code.trim()">Turn it on</button>
          <button type="button" class="press" @click="((wish = null), (setUp = null))">Leave it</button>
        </p>
      </div>
    </form>
    <p v-if="said" class="mt-3 font-bold" role="status">{{ said }}</p>
    <div v-if="codes.length" class="mt-3 max-w-2xl border-2 border-ink p-3" role="status">
      <p class="font-bold">
        Keep these on paper, away from the phone. Each opens once where the phone is lost.
      </p>
      <ul class="code mt-2 grid grid-cols-2 gap-x-6 font-normal sm:grid-cols-5">
        <li v-for="one in codes" :key="one">{{ one }}</li>
      </ul>
    </div>
    <ProblemText :says="other" />
  </section>
</template>
