<script setup lang="ts">
/** Signing in by the sign-in of a place's own: a form, for a browser is sent there and back. */
import { computed } from "vue";

import { useElsewhere } from "@/shell/query";

const props = defineProps<{ to: string }>();
const elsewhere = useElsewhere();
/** Where people come back to; who is in by then is led on. */
const back = computed(() => `/sign-in?${new URLSearchParams({ back: "1", to: props.to }).toString()}`);
const token = () => /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
function sent(event: Event): void {
  const field = (event.target as HTMLFormElement).elements.namedItem("csrfmiddlewaretoken");
  (field as HTMLInputElement).value = token();
}
</script>

<template>
  <form
    v-if="elsewhere"
    class="mt-4 grid border-t-2 border-ink pt-4"
    method="post"
    action="/_allauth/browser/v1/auth/provider/redirect"
    @submit="sent"
  >
    <input type="hidden" name="provider" value="elsewhere" />
    <input type="hidden" name="process" value="login" />
    <input type="hidden" name="callback_url" :value="back" />
    <input type="hidden" name="csrfmiddlewaretoken" value="" />
    <button class="press">Sign in with {{ elsewhere }}</button>
  </form>
</template>
