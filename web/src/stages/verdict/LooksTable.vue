<script setup lang="ts">
/** Each look on its own: who led, and how sure that is.  Supporting, not the claim. */
import type { Schemas } from "@/shell/api/client";
import WideTable from "@/parts/WideTable.vue";

const props = defineProps<{
  looks: Schemas["Finding"][];
  verdict: Schemas["VerdictOut"];
  levels: Record<string, string>;
}>();
const emit = defineEmits<{ why: [finding: Schemas["Finding"]] }>();
function leader(look: Schemas["Finding"]): number {
  const goodness = (value: number) => (look.comparison.column.better === "more" ? value : -value);
  let best = -1;
  let top = -Infinity;
  look.comparison.treatments.forEach((one, i) => {
    if (one.estimate !== null && goodness(one.estimate) > top) {
      best = i;
      top = goodness(one.estimate);
    }
  });
  return best;
}
const letter = (at: number) => props.verdict.treatments[at]?.letter ?? "–";
</script>

<template>
  <section class="min-w-0">
    <h2>Look by look</h2>
    <WideTable class="mt-2"
      ><table class="figures">
        <thead>
          <tr>
            <th scope="col">Look</th>
            <th scope="col">First</th>
            <th scope="col">How sure</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="look in looks" :key="look.when">
            <td>{{ look.when.replace(/^at /, "") }}</td>
            <td :data-hue="leader(look) % 8">
              <span
                v-if="look.strength.level !== 'spoiled'"
                class="inline-grid h-6 min-w-6 place-items-center bg-(--hue) px-1 font-bold text-sheet"
                >{{ letter(leader(look)) }}</span
              >
            </td>
            <td>
              {{ levels[look.strength.level]?.toLowerCase() }}
              <button class="quiet" :aria-label="`Why, ${look.when}?`" @click="emit('why', look)">
                why?
              </button>
            </td>
          </tr>
        </tbody>
      </table></WideTable
    >
  </section>
</template>
