<script setup lang="ts">
import { sure } from "@/parts/sure";
/** Which outcomes at which look: a grid to be ticked. */
import type { Plan } from "./usePlan";

const plan = defineModel<Plan>({ required: true });
const all = () => plan.value.checkpoints.map((one) => one.key);
const has = (i: number, key: string) =>
  !sure(plan.value.outcomes[i]).checkpoints.length || sure(plan.value.outcomes[i]).checkpoints.includes(key);
function toggle(i: number, key: string): void {
  const outcome = sure(plan.value.outcomes[i]);
  const now = outcome.checkpoints.length ? outcome.checkpoints : all();
  const next = now.includes(key)
    ? now.filter((one) => one !== key)
    : all().filter((one) => now.includes(one) || one === key);
  if (next.length) outcome.checkpoints = next.length === all().length ? [] : next;
}
const called = (one: Plan["checkpoints"][number]) => (one.stage ? `${one.name}, ${one.stage}` : one.name);
</script>

<template>
  <div class="overflow-x-auto">
    <table class="border-collapse" aria-label="Outcomes at looks">
      <thead>
        <tr>
          <td />
          <th
            v-for="outcome in plan.outcomes"
            :key="outcome.key"
            scope="col"
            class="max-w-32 px-1.5 pb-1 text-left align-bottom text-[0.9rem]"
          >
            {{ outcome.name || "New outcome" }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in plan.checkpoints" :key="one.key" class="rule">
          <th scope="row" class="min-w-20 pr-2 text-left text-[0.95rem] font-normal">{{ called(one) }}</th>
          <td v-for="(outcome, i) in plan.outcomes" :key="outcome.key" class="p-0">
            <label class="grid h-11 min-w-11 place-items-center justify-start px-2"
              ><input
                type="checkbox"
                class="h-5 w-5 accent-ink"
                :checked="has(i, one.key)"
                :aria-label="`${outcome.name} at ${called(one)}`"
                @change="toggle(i, one.key)"
            /></label>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
