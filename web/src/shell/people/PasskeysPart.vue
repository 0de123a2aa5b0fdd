<script setup lang="ts">
/** Passkeys of whoever is signed in: made on this device, named, done away with. */
import { onMounted, ref } from "vue";

import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { here, moment, wholeDay } from "@/parts/moments";
import { useAct } from "@/shell/act";
import { addPasskey, dropPasskey, passkeys, passkeysHere, type Passkey } from "@/shell/api/passkeys";
import { codesOnPaper, itIsMe } from "@/shell/api/secondStep";

const zone = here();
const own = ref<Passkey[]>();
/** What the password is asked for: a new one, or doing away with this one. */
const wish = ref<"new" | number | null>(null);
const password = ref("");
const name = ref("");
const said = ref("");
const codes = ref<string[]>([]);
const possible = passkeysHere();
const { busy, says, other, through } = useAct(["password", "name"]);
const look = async () => void (own.value = await passkeys());
onMounted(() => through(look));
function begin(what: "new" | number): void {
  [wish.value, password.value, said.value, codes.value] = [what, "", "", []];
}
const proven = () =>
  through(async () => {
    await itIsMe(password.value);
    if (wish.value === "new") {
      const first = !own.value?.length;
      await addPasskey(name.value.trim() || "This device");
      if (first) codes.value = await codesOnPaper();
      said.value = "Kept. From now on it signs you in by itself.";
    } else if (wish.value !== null) {
      await dropPasskey(wish.value);
      said.value = "Gone. It opens nothing any more; the device may still show it.";
    }
    [wish.value, password.value, name.value] = [null, "", ""];
    await look();
  });
const at = (seconds: number) => new Date(1_000 * seconds).toISOString();
</script>

<template>
  <section class="mt-8 border-t-2 border-ink pt-3" aria-label="Passkeys">
    <h2>Passkeys</h2>
    <p class="mt-1 max-w-2xl">
      Your phone, computer or a key on your ring signs you in, by its own lock and without a password. Where
      you have one, a password alone opens nothing: a passkey or a code is asked after it.
    </p>
    <ul v-if="own?.length" class="mt-2 max-w-2xl">
      <li v-for="one in own" :key="one.id" class="rule flex items-center gap-4 py-1.5">
        <span class="min-w-0 grow"
          ><b class="break-words">{{ one.name }}</b
          ><span class="block text-[0.95rem] text-soft"
            >made {{ wholeDay(at(one.created_at), zone)
            }}{{
              one.last_used_at ? `, last used ${moment(at(one.last_used_at), zone)}` : ", not used yet"
            }}</span
          ></span
        >
        <TakeOut :what="one.name" @out="begin(one.id)" />
      </li>
    </ul>
    <p v-if="!possible" class="mt-3 max-w-2xl text-soft">
      This browser, at this address, keeps none: they need a name in the address line, not a number.
    </p>
    <p v-else-if="own && wish === null" class="mt-3">
      <button type="button" class="press" @click="begin('new')">Make one on this device</button>
    </p>
    <form
      v-if="wish !== null"
      class="mt-3 grid max-w-xl gap-3"
      :aria-label="wish === 'new' ? 'A new passkey' : 'Do away with a passkey'"
      @submit.prevent="proven"
    >
      <LabelledField
        v-if="wish === 'new'"
        v-model="name"
        label="What do you call the device?"
        placeholder="This device"
        :says="says('name')"
      />
      <LabelledField
        v-model="password"
        type="password"
        label="Your password, to show that it is you"
        autocomplete="current-password"
        :says="says('password')"
      />
      <p class="flex flex-wrap gap-3">
        <button class="press press-main" :disabled="busy || !password">
          {{ wish === "new" ? "Make it" : "Do away with it" }}
        </button>
        <button type="button" class="press" @click="wish = null">Leave it</button>
      </p>
    </form>
    <p v-if="said" class="mt-3 font-bold" role="status">{{ said }}</p>
    <div v-if="codes.length" class="mt-3 max-w-2xl border-2 border-ink p-3">
      <p class="font-bold">Keep these on paper. Each opens once where the device is lost.</p>
      <ul class="code mt-2 grid grid-cols-2 gap-x-6 font-normal sm:grid-cols-5">
        <li v-for="one in codes" :key="one">{{ one }}</li>
      </ul>
    </div>
    <ProblemText :says="other" />
  </section>
</template>
