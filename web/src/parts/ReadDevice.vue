<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
import { sure } from "@/parts/sure";
/** Take a stable reading from an instrument.  Shown only where one measures in that unit; whatever is wrong
 * with it, typing goes on.
 */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import ProblemText from "./ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";

const props = defineProps<{ unit: string; what: string; small?: boolean }>();
const emit = defineEmits<{ read: [reading: Schemas["DeviceReadingOut"]] }>();
const { data } = useQuery(
  {
    queryKey: keys.devices(computed(() => props.unit)),
    queryFn: () => answer(api.GET("/api/devices", { params: { query: { unit: props.unit } } })),
    staleTime: Infinity,
    retry: false,
    enabled: computed(() => Boolean(props.unit)),
  },
  queryClient,
);
const devices = computed(() => data.value?.devices ?? []);
const chosen = ref("");
const device = computed(() => devices.value.find((one) => one.key === chosen.value) ?? devices.value[0]);
const { busy, other, through } = useAct([]);
const read = () =>
  through(async () =>
    emit(
      "read",
      await answer(
        api.POST("/api/devices/{key}/read", {
          params: { path: { key: sure(device.value).key } },
          body: { unit: props.unit },
        }),
      ),
    ),
  );
</script>

<template>
  <div v-if="device">
    <div class="flex flex-wrap items-center gap-2">
      <button
        type="button"
        class="press"
        :class="small ? 'press-small' : 'min-h-[56px]'"
        :disabled="busy"
        :aria-label="`Read ${what} from the ${device.name.toLowerCase()}`"
        @click="read"
      >
        {{ busy ? "Reading …" : small ? "Read" : `Read the ${device.name.toLowerCase()}` }}
      </button>
      <label v-if="devices.length > 1"
        ><span class="sr-only">Instrument for {{ what }}</span>
        <select v-model="chosen" class="field">
          <option v-for="one in devices" :key="one.key" :value="one.key">{{ one.name }}</option>
        </select>
      </label>
    </div>
    <ProblemText :says="other" />
  </div>
</template>
