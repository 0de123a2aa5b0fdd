<script setup lang="ts">
/** Keep something of this plan for everybody here, under a name. */
import { ref } from "vue";

import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { useAct } from "@/shell/act";
import { Declined } from "@/shell/api/problems";

const props = defineProps<{
  /** What is kept, in words. */
  holds: string;
  placeholder: string;
  /** What is compared here: it would tell a blind scorer too much. */
  secrets: string[];
  keep: (name: string) => Promise<unknown>;
}>();
const emit = defineEmits<{ close: [] }>();
const name = ref("");
const { busy, says, other, through } = useAct(["name"]);
const tells = () =>
  props.secrets.find(
    (one) => one.trim() && `${props.holds} ${name.value}`.toLowerCase().includes(one.trim().toLowerCase()),
  );
const go = () =>
  through(async () => {
    const secret = tells();
    if (secret)
      throw new Declined(422, [
        {
          at: "name",
          says: `It names “${secret.trim()}”, which blind scorers here would read: take that out first.`,
        },
      ]);
    await props.keep(name.value);
    emit("close");
  });
</script>

<template>
  <DialogSheet :open="true" title="Keep for everybody here" @close="emit('close')">
    <form class="mt-3 grid gap-4" @submit.prevent="go">
      <p>{{ holds }}</p>
      <LabelledField
        v-model="name"
        label="Under which name"
        :placeholder="placeholder"
        :says="says('name')"
      />
      <p class="text-soft">All members may begin with it, and read it: those who score blind here as well.</p>
      <ProblemText :says="other" />
      <div class="flex gap-3">
        <button class="press press-main" :disabled="busy || !name.trim()">Keep it</button>
        <button type="button" class="press" @click="emit('close')">Leave it</button>
      </div>
    </form>
  </DialogSheet>
</template>
