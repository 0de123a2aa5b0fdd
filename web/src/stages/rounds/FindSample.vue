<script setup lang="ts">
/** Finding a sample: its code typed in, or its tag held before the camera. */
import { defineAsyncComponent, ref, useId } from "vue";
import { useRouter } from "vue-router";

import ProblemText from "@/parts/ProblemText.vue";
import { answer, api } from "@/shell/api/client";
import { useAct } from "@/shell/act";

/** Reading squares takes a good deal of script, loaded once somebody scans. */
const ScanDialog = defineAsyncComponent(() => import("./ScanDialog.vue"));
const props = defineProps<{ trial: string }>();
const router = useRouter();
const code = ref("");
const scanning = ref(false);
const canScan = Boolean(navigator.mediaDevices);
const { busy, says, other, through } = useAct(["code"]);
const find = () =>
  through(async () => {
    const { id } = await answer(
      api.GET("/api/trials/{trial_id}/find", {
        params: { path: { trial_id: props.trial }, query: { code: code.value } },
      }),
    );
    code.value = "";
    await router.push({ name: "sample", params: { id } });
  });
function found(id: string): void {
  scanning.value = false;
  void router.push({ name: "sample", params: { id } });
}
const told = useId();
</script>

<template>
  <form class="flex flex-wrap items-start gap-2" @submit.prevent="find">
    <label class="min-w-0 grow basis-40"
      ><span class="sr-only">Code on the tag</span>
      <input
        v-model="code"
        class="field code"
        placeholder="412 K"
        autocomplete="off"
        autocapitalize="characters"
        :aria-invalid="says('code') ? 'true' : undefined"
        :aria-describedby="told"
      />
      <ProblemText :id="told" :says="says('code') ?? other" />
    </label>
    <button class="press press-small" :disabled="busy || !code.trim()">Find it</button>
    <button v-if="canScan" type="button" class="press press-small" @click="scanning = true">
      Scan a tag
    </button>
    <ScanDialog v-if="scanning" @found="found" @close="scanning = false" />
  </form>
</template>
