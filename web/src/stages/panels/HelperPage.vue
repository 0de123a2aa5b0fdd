<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The sheet of a helper who pours for somebody's practice. */
import { useQuery } from "@tanstack/vue-query";

import NothingHere from "@/parts/NothingHere.vue";
import { answer, api } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{ token: string }>();
const { data, error } = useQuery({
  queryKey: keys.helper(props.token),
  queryFn: () => answer(api.GET("/api/helper/{token}", { params: { path: { token: props.token } } })),
});
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <main v-else-if="data" class="sheet mx-auto min-h-dvh max-w-2xl px-4 py-5">
    <h1>What goes into the cups</h1>
    <p class="mt-1">
      For you who pour, not for who tastes. Set the cups down in this order, the first on the left, and say
      nothing.
    </p>
    <WideTable class="mt-4"
      ><table class="figures">
        <thead>
          <tr>
            <th scope="col">Set</th>
            <th scope="col">Cups, in their order</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(one, i) in data.sets" :key="i">
            <td>{{ i + 1 }}</td>
            <td>
              <span v-for="cup in one.cups" :key="cup.code" class="mr-6 inline-block"
                ><b class="code">{{ cup.code === "R" ? "Ref." : cup.code }}</b> {{ cup.thing }}</span
              >
            </td>
          </tr>
        </tbody>
      </table></WideTable
    >
  </main>
</template>
