<script setup lang="ts">
/** A line-up: one of twenty pictures is the trial, in the others luck dealt the treatments.  Picked before it
 * is told which.
 */
import { nextTick, onMounted, ref, useTemplateRef } from "vue";

import LineUpPicture from "./LineUpPicture.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { sure } from "@/parts/sure";
import { honest } from "@/parts/amounts";
import { answer, api, type Schemas } from "@/shell/api/client";
import { patiently } from "@/shell/patience";
import { problemsOf } from "@/shell/api/problems";

const props = defineProps<{ trial?: string; token?: string }>();
/** Nothing is left to do here: it was picked, passed over, or there is none. */
const emit = defineEmits<{ done: [shown: boolean] }>();
const shown = ref<Schemas["LineUpOut"]>();
const chosen = ref<number>();
const says = ref("");
const busy = ref(false);
const heading = useTemplateRef<HTMLElement>("heading");
const member = { params: { path: { trial_id: props.trial ?? "" } } };
const reader = { params: { path: { token: props.token ?? "" } } };

onMounted(async () => {
  try {
    shown.value = await patiently(
      answer(
        props.token
          ? api.GET("/api/published/{token}/line-up", reader)
          : api.GET("/api/trials/{trial_id}/line-up", member),
      ),
    );
    if (!shown.value.pictures.length) emit("done", false);
  } catch {
    // While the result is still worked out there is nothing to pick from: the page goes on without.
    emit("done", false);
  }
});

async function pick(): Promise<void> {
  if (chosen.value === undefined) {
    says.value = "Pick the picture that stands out, first.";
    return;
  }
  says.value = "";
  busy.value = true;
  const body = { picture: chosen.value };
  try {
    shown.value = await answer(
      props.token
        ? api.POST("/api/published/{token}/line-up", { ...reader, body })
        : api.POST("/api/trials/{trial_id}/line-up", { ...member, body }),
    );
    await nextTick();
    heading.value?.focus();
  } catch (error) {
    says.value = sure(problemsOf(error)[0]).says;
  } finally {
    busy.value = false;
  }
}
const average = (group: readonly (number | null)[]) => {
  const own = group.filter((one) => one !== null);
  return own.length ? honest(own.reduce((sum, one) => sum + one, 0) / own.length) : "none";
};
/** What an ear gets of a picture: the averages of its groups, or each group from first look to last. */
const described = (groups: readonly (readonly (number | null)[])[]) =>
  shown.value?.kind === "series"
    ? groups
        .map((one) => one.map((value) => (value === null ? "none" : honest(value))).join(" then "))
        .join("; ")
    : `averages ${groups.map(average).join(", ")}`;
const told = (at: number) => shown.value?.truth === at;
</script>

<template>
  <section v-if="shown?.pictures.length" aria-label="Line-up">
    <component
      :is="token ? 'h2' : 'h1'"
      ref="heading"
      tabindex="-1"
      class="text-[1.5rem] leading-tight lg:text-[1.8rem]"
    >
      {{
        shown.truth === null
          ? "One of these twenty pictures is your trial. Which?"
          : `Picture ${shown.truth + 1} is the trial.`
      }}
    </component>
    <template v-if="shown.truth === null">
      <p class="mt-2 max-w-3xl">
        In the nineteen others luck dealt the treatments anew, just as the layout could have: every value
        stays, only what it belongs to changes.
        {{
          shown.kind === "dots"
            ? "A column is a treatment, in the same order everywhere; a ring is a sample, a bar the average."
            : "A line is a treatment’s average over the looks, drawn alike everywhere."
        }}
        All are on one scale: {{ shown.outcome }}. Pick the one that stands out, before you read any number.
      </p>
      <p v-if="shown.knows" class="mt-2 font-bold">
        You have read the result already, so your pick will be told as that.
      </p>
    </template>
    <p v-for="one in shown.says" :key="one" class="mt-2 max-w-3xl text-[1.1rem]">{{ one }}</p>
    <fieldset class="mt-4" :disabled="shown.truth !== null || busy">
      <legend class="sr-only">Pictures</legend>
      <div class="grid grid-cols-2 gap-2 sm:grid-cols-4 lg:grid-cols-5">
        <label
          v-for="(picture, i) in shown.pictures"
          :key="i"
          class="picture"
          :class="{ true: told(i), mine: shown.picked === i }"
        >
          <span class="flex items-center justify-between gap-2">
            <span class="flex items-center gap-2">
              <input v-model="chosen" type="radio" name="line-up" :value="i" class="h-5 w-5 accent-(--ink)" />
              <b>{{ i + 1 }}</b>
            </span>
            <span v-if="told(i)" class="font-bold">the trial</span>
            <span v-else-if="shown.picked === i">your pick</span>
          </span>
          <LineUpPicture :groups="picture.groups" :kind="shown.kind" :low="shown.low" :high="shown.high" />
          <span class="sr-only">, {{ described(picture.groups) }}</span>
        </label>
      </div>
    </fieldset>
    <ProblemText :says="says" />
    <p class="sticky-foot mt-4 flex flex-wrap items-center gap-3">
      <template v-if="shown.truth === null">
        <button type="button" class="press press-main" :disabled="busy" @click="pick">
          {{ chosen === undefined ? "This one" : `Picture ${chosen + 1} is it` }}
        </button>
        <button type="button" class="quiet" @click="emit('done', true)">Read on without picking</button>
      </template>
      <button v-else type="button" class="press press-main" @click="emit('done', true)">Read on</button>
    </p>
  </section>
</template>

<style scoped>
.picture {
  display: block;
  min-height: 44px;
  padding: 0.4rem 0.5rem;
  border: 2px solid var(--line);
  cursor: pointer;
}
.picture:hover,
.picture:has(:checked) {
  border-color: var(--ink);
}
.picture:has(:focus-visible) {
  outline: 3px solid var(--ink);
  outline-offset: 2px;
}
.picture.mine {
  border-style: dashed;
  border-color: var(--ink);
}
.picture.true {
  border-style: solid;
  border-width: 4px;
  border-color: var(--ink);
}
.sticky-foot {
  position: sticky;
  bottom: var(--bar);
  padding: 0.6rem 0;
  background: var(--sheet);
}
</style>
