<script setup lang="ts">
/** What the server turned down: still on this device, with its sentence, until somebody decides what becomes
 * of it.
 */
import { ref } from "vue";

import { discard, keepAsNote, sendAgain, type Waiting } from "@/shell/outbox";

/** `host`: whom to tell, where there is no log to keep it in. */
defineProps<{ rows: Waiting[]; host?: boolean }>();
const emit = defineEmits<{ changed: [] }>();
const busy = ref(false);
async function then(act: () => Promise<void>): Promise<void> {
  busy.value = true;
  try {
    await act();
  } finally {
    busy.value = false;
    emit("changed");
  }
}
const all = (rows: Waiting[]) =>
  then(async () => {
    for (const row of rows) await sendAgain(row);
  });
</script>

<template>
  <section v-if="rows.length" class="my-3 grid gap-3 border-2 border-ink p-3" aria-label="What was not taken">
    <p v-if="rows.length > 1" class="flex flex-wrap items-center justify-between gap-3">
      <b>{{ rows.length }} were not taken. They are still on this device.</b>
      <button type="button" class="press press-small" :disabled="busy" @click="all(rows)">
        Send all again
      </button>
    </p>
    <div v-for="row in rows" :key="row.id" class="grid gap-2" role="alert">
      <p>
        <b>{{ row.called }} was not taken.</b> {{ row.refused }} It is still on this device{{
          host ? "; tell the host" : ""
        }}.
      </p>
      <p class="flex flex-wrap gap-3">
        <button type="button" class="press press-small" :disabled="busy" @click="then(() => sendAgain(row))">
          Send it again
        </button>
        <button
          v-if="!host"
          type="button"
          class="press press-small"
          :disabled="busy"
          @click="then(() => keepAsNote(row))"
        >
          Keep it as a note in the log
        </button>
        <button type="button" class="quiet" :disabled="busy" @click="then(() => discard(row))">
          Discard it
        </button>
      </p>
    </div>
  </section>
</template>
