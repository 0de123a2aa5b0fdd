<script setup lang="ts">
import { keys } from "@/shell/queryKeys";
/** Taking the trial along: tables and the trial pack. */
import { useRouter } from "vue-router";

import ReceiptPart from "./ReceiptPart.vue";
import ReportPart from "./ReportPart.vue";
import TakeChart from "./TakeChart.vue";
import TakeFile from "./TakeFile.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { answer, api, type Schemas } from "@/shell/api/client";
import { useAct } from "@/shell/act";
import { queryClient } from "@/shell/query";
import LongName from "@/parts/LongName.vue";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const router = useRouter();
const { busy, other, through } = useAct([]);
const again = () =>
  through(async () => {
    const begun = await answer(
      api.POST("/api/trials/{trial_id}/again", {
        params: { path: { trial_id: props.id } },
        body: { samples: null, only: [] },
      }),
    );
    await queryClient.invalidateQueries({ queryKey: keys.shelf() });
    await router.push({ name: "plan", params: { id: begun.id, part: "question" } });
  });
</script>

<template>
  <section class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <h1>Share</h1>
    <p v-if="course.state !== 'opened'" class="mt-2 max-w-2xl border-l-4 border-ink pl-3">
      The key is sealed: these files hold codes and readings. What each sample got is in them only for someone
      who may see it and has looked at the key already.
    </p>
    <ReportPart v-if="course.state === 'opened'" :id="id" :lead="course.may_lead" class="mt-6" />
    <div class="mt-8 grid gap-6 xl:grid-cols-2">
      <div v-if="!course.is_tasting" class="border-t-2 border-ink pt-3">
        <h2>Readings</h2>
        <p class="mt-1">One table, a row a reading, for any spreadsheet. CSV in UTF‑8.</p>
        <TakeFile :trial="id" what="readings" main class="mt-4">Save the readings</TakeFile>
      </div>
      <div class="border-t-2 border-ink pt-3">
        <h2>Trial pack</h2>
        <p class="mt-1">
          Everything in one zip of plain tables with their description:
          {{
            course.is_tasting
              ? "what was put before people, who sat where, every set and every answer"
              : "treatments, samples, outcomes, checkpoints, every reading with what it replaced, deviations"
          }}<template v-if="course.state === 'opened'">, and the sealed plan with its seed</template>.
        </p>
        <TakeFile :trial="id" what="pack" main class="mt-4">Save the pack</TakeFile>
      </div>
      <div v-if="course.state === 'opened'" class="border-t-2 border-ink pt-3">
        <h2>Workbook and verdict</h2>
        <p class="mt-1">
          A summary and a sheet for each table; and every figure of the verdict for other programs.
        </p>
        <p class="mt-4 flex flex-wrap gap-3">
          <TakeFile :trial="id" what="workbook" main>Save the workbook</TakeFile
          ><a class="press" :href="`/api/trials/${id}/verdict.json`" download>Verdict as JSON</a>
        </p>
      </div>
      <TakeChart
        v-if="course.state === 'opened' && !course.is_tasting"
        :id="id"
        :outcomes="course.outcomes"
      />
    </div>
    <div
      v-if="(course.may_lead || course.state === 'opened') && !course.is_tasting"
      class="mt-8 border-t-2 border-ink pt-3"
    >
      <h2>The next trial</h2>
      <p class="mt-1 max-w-2xl">
        Begin from this plan. What was weak about this trial, given up, missed or left open, is listed in the
        new draft to be mended.
      </p>
      <button type="button" class="press mt-4" :disabled="busy" @click="again">Begin the next trial</button>
      <ProblemText :says="other" />
    </div>
    <div v-if="course.seal && course.origin !== 'table'" class="rule mt-8 pt-4">
      <h2>Check the seal</h2>
      <p class="mt-1 max-w-3xl">
        SHA-256 of the plan, its seed and its key, taken
        {{ course.is_tasting || !course.started_at ? "at the seal" : "before exposure started" }}. With the
        pack of an opened trial, <code class="code font-normal">./tally check-seal PACK.zip</code> computes it
        again, draws the key again, and finds any cell that was changed.
      </p>
      <p class="code mt-2 font-normal break-all">{{ course.seal }}</p>
    </div>
    <ReceiptPart v-if="course.state !== 'draft'" :id="id" />
  </section>
</template>
