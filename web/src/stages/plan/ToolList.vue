<script setup lang="ts">
/** What this person measures with: theirs over all trials. */
import { ref } from "vue";

import type { DosesAtWork } from "./useDoses";
import EchoField from "@/parts/EchoField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import TakeOut from "@/parts/TakeOut.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";

const props = defineProps<{ doses: DosesAtWork; system: Schemas["ToolIn"]["system"] }>();
const text = ref("");
const shared = ref(false);
const { busy, says, other, through } = useAct(["text"]);
const add = () =>
  through(async () => {
    await props.doses.changeTools(
      answer(
        api.POST("/api/tools", { body: { text: text.value, system: props.system, shared: shared.value } }),
      ),
    );
    text.value = "";
  });
const drop = (id: number) =>
  through(() =>
    props.doses.changeTools(
      answer(api.DELETE("/api/tools/{tool_id}", { params: { path: { tool_id: id } } })),
    ),
  );
</script>

<template>
  <div>
    <ul v-if="doses.tools.value.length" class="grid gap-x-6 sm:grid-cols-2">
      <li v-for="one in doses.tools.value" :key="one.id" class="rule flex items-center justify-between gap-3">
        <span
          ><b v-if="one.name !== one.text">{{ one.name }}, </b>{{ one.most }} {{ one.unit }} by
          {{ one.graduation }} {{ one.unit
          }}<span v-if="one.shared" class="text-soft">, for everybody here</span></span
        >
        <TakeOut v-if="one.mine" :what="one.name" @out="drop(one.id)" />
      </li>
    </ul>
    <p v-else class="text-soft">
      None yet. With your tools listed, each dose is checked against the best of them.
    </p>
    <div class="mt-2 flex flex-wrap items-start gap-2">
      <EchoField
        v-model="text"
        class="max-w-80 grow"
        label="Tool: what it holds, and how it is marked"
        hide-label
        wants="tool"
        :system="system"
        placeholder="small syringe: 1 mL by 0.01 mL"
        :says="says('text')"
        @keydown.enter.prevent="add"
      />
      <button type="button" class="press press-small" :disabled="busy || !text.trim()" @click="add">
        Add the tool
      </button>
      <label class="flex min-h-11 items-center gap-3"
        ><input v-model="shared" type="checkbox" class="h-6 w-6 flex-none accent-ink" /> for everybody
        here</label
      >
    </div>
    <ProblemText :says="other" />
  </div>
</template>
