<script setup lang="ts">
/** What a panel can find, beside its plan; and the other tests that answer the same question. */
import { METHODS, type PanelPlan } from "./methods";
import { honest } from "@/parts/amounts";
import type { Schemas } from "@/shell/api/client";
import WideTable from "@/parts/WideTable.vue";

defineProps<{ plan: PanelPlan; outlook: Schemas["PanelOutlook"] | null | undefined; first?: string }>();
const nameOf = (key: string) => METHODS.find((one) => one.key === key)?.name ?? key;
</script>

<template>
  <aside class="on-panel bg-panel p-5 text-panel-ink" aria-label="What this panel can find">
    <h2>What this panel can find</h2>
    <template v-if="outlook">
      <p
        v-for="(one, i) in outlook.says"
        :key="one"
        class="mt-3"
        :class="{ 'text-[1.25rem] font-bold': i === 0 }"
      >
        {{ one }}
      </p>
      <p v-if="plan.material === 'cups'" class="mt-4 border-t border-panel-soft pt-3">
        It takes {{ outlook.cups }} cups, about {{ honest(outlook.amounts[0] ?? 0, 3) }}
        {{ plan.amount_unit }} of each.
      </p>
      <template v-if="outlook.others.length">
        <h3 class="mt-4 border-t border-panel-soft pt-3 font-bold">The same difference, by another test</h3>
        <WideTable class="mt-1" :stack="false"
          ><table class="mt-1 w-full text-[0.95rem]">
            <thead>
              <tr>
                <th scope="col" class="text-left font-normal">Test</th>
                <th scope="col" class="pl-3 text-right font-normal whitespace-nowrap">people</th>
                <th scope="col" class="pl-3 text-right font-normal whitespace-nowrap">
                  {{ plan.material === "cups" ? "cups" : "shown" }}
                </th>
                <th
                  v-if="plan.material === 'cups'"
                  scope="col"
                  class="pl-3 text-right font-normal whitespace-nowrap"
                >
                  {{ plan.amount_unit }}
                </th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="one in outlook.others"
                :key="one.method"
                :class="{ 'font-bold': one.method === plan.method }"
              >
                <th scope="row" class="py-1 text-left font-[inherit]">{{ nameOf(one.method) }}</th>
                <td class="pl-3 text-right whitespace-nowrap">{{ one.people ?? "too many" }}</td>
                <td class="pl-3 text-right whitespace-nowrap">{{ one.cups ?? "" }}</td>
                <td v-if="plan.material === 'cups'" class="pl-3 text-right whitespace-nowrap">
                  {{ one.amount === null ? "" : honest(one.amount, 3) }}
                </td>
              </tr>
            </tbody>
          </table></WideTable
        >
        <p class="mt-1 text-[0.95rem]">
          So that it is found {{ Math.round(plan.wanted * 100) }} times in 100.
        </p>
      </template>
    </template>
    <p v-else class="mt-3">{{ first ?? "Choose what is put before them." }}</p>
  </aside>
</template>
