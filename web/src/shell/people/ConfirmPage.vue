<script setup lang="ts">
/** The link of the letter that asks whether an address is somebody's own. */
import { ref } from "vue";
import { useRouter } from "vue-router";

import DoorPage from "./DoorPage.vue";
import { afterJoining } from "./joining";
import { useAct } from "@/shell/act";
import ProblemText from "@/parts/ProblemText.vue";
import { confirmAddress } from "@/shell/api/accounts";
import { queryClient } from "@/shell/query";

const props = defineProps<{ token: string }>();
const router = useRouter();
const confirmed = ref(false);
const { busy, says, other, through } = useAct(["key"]);
/** Only when it is pressed: whoever looks through letters for a mail server opens links, too. */
const confirm = () =>
  through(async () => {
    const within = await confirmAddress(props.token);
    queryClient.clear();
    if (within) await router.push(afterJoining());
    else confirmed.value = true;
  });
</script>

<template>
  <DoorPage title="Confirm your address">
    <template v-if="confirmed">
      <p>Your address is confirmed. Sign in, and you are there.</p>
      <RouterLink class="press press-main mt-5" :to="{ name: 'sign-in', query: { to: afterJoining() } }"
        >Sign in</RouterLink
      >
    </template>
    <template v-else>
      <p>One tap, and the address this letter came to is yours here.</p>
      <ProblemText class="mt-3" :says="says('key') ?? other" />
      <button class="press press-main mt-5" :disabled="busy" @click="confirm">This address is mine</button>
    </template>
    <p class="mt-4">
      <RouterLink class="quiet inline-flex items-center" to="/sign-in">To sign in</RouterLink>
    </p>
  </DoorPage>
</template>
