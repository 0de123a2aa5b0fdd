<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** The packs that are really used: lot, date and opening, held against the length of the trial. */
import { reactive, useId } from "vue";

import LabelledField from "@/parts/LabelledField.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { day } from "@/parts/moments";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";

const props = defineProps<{ id: string; sheet: Schemas["MixSheetOut"]; zone: string }>();
const FRESH = { product: "", lot: "", expires: "", opened: "" };
const pack = reactive({ ...FRESH });
const { busy, says, other, through } = useAct(["product", "lot", "expires", "opened"]);
const note = () =>
  through(async () => {
    const body = {
      product: pack.product,
      lot: pack.lot,
      expires: pack.expires || null,
      opened: pack.opened || null,
    };
    queryClient.setQueryData(
      keys.mix(props.id),
      await answer(
        api.POST("/api/trials/{trial_id}/packs", { params: { path: { trial_id: props.id } }, body }),
      ),
    );
    Object.assign(pack, FRESH);
  });
const date = (at: string) => `${day(`${at}T12:00:00Z`, "UTC")} ${at.slice(0, 4)}`;
const told = useId();
</script>

<template>
  <section>
    <h2 class="border-b-2 border-ink pb-1">Packs in use</h2>
    <ul v-if="sheet.packs.length">
      <li v-for="one in sheet.packs" :key="one.product + one.lot" class="rule py-2 first:border-0">
        <b>{{ one.name }}</b><template v-if="one.lot"
          >, lot <span class="code">{{ one.lot }}</span></template
        ><template v-if="one.expires">, use by {{ date(one.expires) }}</template
        ><template v-if="one.opened">, opened {{ date(one.opened) }}</template>
        <ProblemText :says="one.problem" />
      </li>
    </ul>
    <p v-else class="mt-2 text-soft">
      No pack is noted yet. Its lot goes into the report, and its dates are held against the last look.
    </p>
    <form
      v-if="sheet.may_tick"
      class="no-print mt-2 grid items-start gap-3 sm:grid-cols-2 lg:grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_11rem_11rem_auto]"
      @submit.prevent="note"
    >
      <label class="block"
        ><span class="mb-1 block font-bold">Product</span>
        <select
          v-model="pack.product"
          class="field"
          :aria-invalid="says('product') ? 'true' : undefined"
          :aria-describedby="told"
        >
          <option value="">which?</option>
          <option v-for="(name, key) in sheet.products" :key="key" :value="key">{{ name }}</option>
        </select>
        <ProblemText :id="told" :says="says('product')" />
      </label>
      <LabelledField v-model="pack.lot" label="Lot" autocomplete="off" :says="says('lot')" />
      <LabelledField v-model="pack.expires" type="date" label="Use by" :says="says('expires')" />
      <LabelledField v-model="pack.opened" type="date" label="Opened on" :says="says('opened')" />
      <button class="press self-end" :disabled="busy || !pack.product">Note the pack</button>
    </form>
    <ProblemText :says="other" />
  </section>
</template>
