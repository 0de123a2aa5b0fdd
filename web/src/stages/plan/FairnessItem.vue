<script setup lang="ts">
/** One item of the fairness list: how it stands, why it matters, and keeping it or giving it up. */
import { computed, nextTick, ref, useId } from "vue";

import ProblemText from "@/parts/ProblemText.vue";
import type { Schemas } from "@/shell/api/client";

const props = defineProps<{ item: Schemas["FairFinding"]; editable: boolean; taken?: boolean }>();
const emit = defineEmits<{ keep: []; giveUp: [reason: string]; takeBack: []; giving: [] }>();
const id = useId();
/** A person says so; the plan alone could not tell. */
const vouched = computed(() => props.item.standing === "kept" && !props.item.by_plan);
const why = ref(false);
const giving = ref(false);
const reason = ref("");
const says = ref("");
const field = ref<HTMLInputElement>();
async function begin(): Promise<void> {
  giving.value = true;
  emit("giving");
  await nextTick();
  field.value?.focus();
}
function giveUp(): void {
  if (!reason.value.trim()) says.value = "Say why; the verdict will tell it.";
  else emit("giveUp", reason.value.trim());
}
const told = useId();
</script>

<template>
  <li class="item" :class="item.standing" :aria-label="item.title">
    <svg
      viewBox="0 0 20 20"
      class="mt-1 h-5 w-5 flex-none"
      role="img"
      :aria-label="item.standing === 'kept' ? 'kept' : item.standing === 'open' ? 'open' : 'given up'"
    >
      <rect
        x="2"
        y="2"
        width="16"
        height="16"
        :fill="item.standing === 'kept' ? 'currentColor' : 'none'"
        stroke="currentColor"
        stroke-width="2.4"
      />
      <path v-if="item.standing === 'given_up'" d="M3 17 17 3" stroke="currentColor" stroke-width="2.6" />
    </svg>
    <div class="min-w-0 grow">
      <p>
        <b>{{ item.title }}</b>
      </p>
      <p class="text-[0.95rem]" :title="vouched ? item.says : undefined">
        {{
          item.standing === "given_up"
            ? `Given up: ${item.reason}`
            : vouched
              ? "Vouched for in this plan."
              : item.says
        }}
      </p>
      <p v-if="item.standing !== 'kept' || giving" class="text-[0.92rem] text-soft">
        {{ item.standing === "given_up" ? "May not be claimed:" : "Without it the verdict may not claim:" }}
        {{ item.limit.charAt(0).toLowerCase() + item.limit.slice(1) }}
      </p>
      <p v-if="why && vouched" class="mt-1 text-[0.95rem]">{{ item.says }}</p>
      <p v-if="why" class="mt-1 text-[0.95rem] text-soft">{{ item.why }}</p>
      <div class="flex flex-wrap items-center gap-x-2">
        <template
          v-if="editable && (item.standing === 'open' || (item.standing === 'kept' && item.promised))"
        >
          <button
            v-if="!item.by_plan && item.standing === 'open'"
            type="button"
            class="press press-small my-1"
            :aria-label="`Keep: ${item.title}`"
            @click="emit('keep')"
          >
            Yes
          </button>
          <template v-if="item.standing === 'open'">
            <button
              type="button"
              class="press press-small my-1"
              :aria-label="`No: ${item.title}`"
              @click="emit('giveUp', item.no)"
            >
              {{ item.by_plan ? "Leave it so" : "No" }}
            </button>
            <button
              v-if="!item.by_plan"
              type="button"
              class="press press-small my-1"
              :aria-label="`Nobody knows: ${item.title}`"
              @click="emit('giveUp', item.unknown)"
            >
              Don’t know
            </button>
          </template>
          <button
            v-if="!giving"
            type="button"
            class="quiet"
            :aria-label="`Give up: ${item.title}`"
            @click="begin"
          >
            {{ item.standing === "open" ? "No, because …" : "Give it up" }}
          </button>
        </template>
        <button
          v-if="taken && editable"
          type="button"
          class="quiet"
          :aria-label="`Take back: ${item.title}`"
          @click="emit('takeBack')"
        >
          Take back
        </button>
        <button
          type="button"
          class="quiet"
          :aria-expanded="why"
          :aria-label="`Why: ${item.title}`"
          @click="why = !why"
        >
          Why?
        </button>
      </div>
      <div v-if="giving" class="flex flex-wrap gap-2">
        <label :for="id" class="sr-only">Reason for giving up: {{ item.title }}</label>
        <input
          :id="id"
          ref="field"
          v-model="reason"
          class="field max-w-96 grow"
          placeholder="because …"
          autocomplete="off"
          :aria-invalid="says ? 'true' : undefined"
          :aria-describedby="told"
          @keydown.enter.prevent="giveUp"
        />
        <button type="button" class="press press-small" @click="giveUp">Give it up</button>
      </div>
      <ProblemText :id="told" :says="says" />
    </div>
  </li>
</template>

<style scoped>
.item {
  display: flex;
  gap: 0.8rem;
  padding: 0.7rem 0;
  border-bottom: 1px solid var(--line);
}
.open {
  background: var(--sheet);
  padding: 0.8rem 0.9rem;
  border-bottom: 2px solid var(--ink);
}
.given_up {
  color: var(--ink);
}
</style>
