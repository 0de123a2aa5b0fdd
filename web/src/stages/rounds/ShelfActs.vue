<script setup lang="ts">
/** What can be done with a trial on the shelf: copied, filed away, and as a draft renamed and deleted. */
import { ref } from "vue";
import { useRouter } from "vue-router";

import type { ShelfTrial } from "./shelf";
import DialogSheet from "@/parts/DialogSheet.vue";
import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { useAct } from "@/shell/act";
import { answer, api } from "@/shell/api/client";
import { queryClient } from "@/shell/query";
import { keys } from "@/shell/queryKeys";

const props = defineProps<{ trial: ShelfTrial }>();
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const title = ref(props.trial.title);
const deleting = ref(false);
const path = { params: { path: { trial_id: props.trial.id } } };
const own = props.trial.role === "lead";
const draft = own && props.trial.state === "draft";
const { busy, says, other, through } = useAct(["title"]);
async function done(): Promise<void> {
  await queryClient.invalidateQueries({ queryKey: keys.shelf() });
  emit("close");
}
const copy = () =>
  through(async () => {
    const { id } = await answer(
      api.POST("/api/trials/{trial_id}/again", { ...path, body: { samples: null, only: [] } }),
    );
    await done();
    await router.push({ name: "plan", params: { id } });
  });
const file = () =>
  through(async () => {
    await answer(api.PUT("/api/trials/{trial_id}/filed", { ...path, body: { filed: !props.trial.filed } }));
    await done();
  });
const rename = () =>
  through(async () => {
    await answer(api.PUT("/api/trials/{trial_id}/title", { ...path, body: { title: title.value } }));
    await done();
  });
const remove = () =>
  through(async () => {
    await answer(api.DELETE("/api/trials/{trial_id}", path));
    await done();
  });
</script>

<template>
  <DialogSheet :open="true" :title="trial.title" @close="emit('close')">
    <form v-if="draft" class="mt-4 flex flex-wrap items-end gap-3" @submit.prevent="rename">
      <LabelledField v-model="title" class="grow" label="Name" autocomplete="off" :says="says('title')" />
      <button class="press" :disabled="busy || title.trim() === trial.title">Rename it</button>
    </form>
    <ul class="mt-4 grid gap-3">
      <li v-if="(own || trial.state === 'opened') && !trial.is_tasting">
        <button type="button" class="press w-full justify-between" :disabled="busy" @click="copy">
          Begin again from its plan<span class="text-right font-normal text-soft">a new draft of yours</span>
        </button>
      </li>
      <li>
        <button type="button" class="press w-full justify-between" :disabled="busy" @click="file">
          {{ trial.filed ? "Take it back onto the shelf" : "File it away"
          }}<span class="text-right font-normal text-soft">for you alone</span>
        </button>
      </li>
      <li v-if="draft && !deleting">
        <button type="button" class="press w-full justify-between" :disabled="busy" @click="deleting = true">
          Delete this draft<span class="text-right font-normal text-soft">asks once more</span>
        </button>
      </li>
    </ul>
    <div v-if="deleting" class="mt-4 border-l-4 border-ink pl-4">
      <p>The draft goes with all that stands in it. There is no way back.</p>
      <button type="button" class="press press-main mt-3" :disabled="busy" @click="remove">
        Delete it for good
      </button>
    </div>
    <ProblemText class="mt-3" :says="other" />
    <button type="button" class="press mt-5" @click="emit('close')">Close</button>
  </DialogSheet>
</template>
