<script setup lang="ts">
/** A heap of photos that files itself: read, dealt, filed; what cannot be told is asked in groups. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import DealDialog from "./DealDialog.vue";
import TimeCode from "./TimeCode.vue";
import TrayPhotos from "./TrayPhotos.vue";
import { byLook, groupsOf, shiftWords, type Group } from "./tray";
import { useDrop } from "./useDrop";
import LongName from "@/parts/LongName.vue";
import NothingHere from "@/parts/NothingHere.vue";
import ProblemText from "@/parts/ProblemText.vue";
import { clock, wholeDay } from "@/parts/moments";
import { useAct } from "@/shell/act";
import { answer, api, type Schemas } from "@/shell/api/client";
import { problemsOf } from "@/shell/api/problems";
import { trialChanged } from "@/shell/query";
import { keys } from "@/shell/queryKeys";

const props = defineProps<{ id: string; course: Schemas["CourseOut"] }>();
const AT_ONCE = 100;
const ASKED_EVERY = 1500;
const { data, error, refetch } = useQuery({
  queryKey: keys.tray(computed(() => props.id)),
  queryFn: () => answer(api.GET("/api/trials/{trial_id}/tray", { params: { path: { trial_id: props.id } } })),
  refetchInterval: (query) => (query.state.data?.unread ? ASKED_EVERY : false),
});
const { add, stop, count, left, refused, offline, going } = useDrop(
  () => props.id,
  () => refetch(),
);
const over = ref(false);
const chosen = ref(new Set<string>());
const dealing = ref(false);
const timed = ref(false);
const names = computed(() =>
  Object.fromEntries(props.course.checkpoints.map((stop) => [stop.key, stop.name])),
);
const photos = computed(() => data.value?.photos ?? []);
const sure = computed(() => byLook(photos.value, props.course.checkpoints));
const many = computed(() => sure.value.reduce((sum, look) => sum + look.photos.length, 0));
const open = computed(() => groupsOf(photos.value));
const asking = computed(() => open.value.reduce((sum, group) => sum + group.photos.length, 0));
const clocks = computed(() => photos.value.filter((one) => one.clock));
const picked = computed(() => photos.value.filter((one) => chosen.value.has(one.id)));
const plural = (n: number, one = "photo", more = "photos") => `${n} ${n === 1 ? one : more}`;
function taken(list: FileList | null | undefined): void {
  void add([...(list ?? [])]);
}
function dropped(event: DragEvent): void {
  over.value = false;
  taken(event.dataTransfer?.files);
}
function when(group: Group): string {
  if (!group.from || !group.to) return "No moment is known";
  const [from, to] = [clock(group.from, props.course.zone), clock(group.to, props.course.zone)];
  return `${wholeDay(group.from, props.course.zone)}, ${from === to ? from : `${from} to ${to}`}`;
}
function all(group: Group): void {
  const own = group.photos.map((one) => one.id);
  const whole = own.every((id) => chosen.value.has(id));
  const next = new Set(chosen.value);
  for (const id of own)
    if (whole) next.delete(id);
    else next.add(id);
  chosen.value = next;
}
async function dealt(): Promise<void> {
  dealing.value = false;
  chosen.value = new Set();
  await refetch();
}
const told = ref("");
const { busy, other, through } = useAct([]);
const send = (ids: string[]) =>
  answer(
    api.POST("/api/trials/{trial_id}/tray/file", {
      params: { path: { trial_id: props.id } },
      body: { photos: ids },
    }),
  );
const file = () =>
  through(async () => {
    const ids = sure.value.flatMap((look) => look.photos.map((one) => one.id));
    let filed = 0;
    told.value = "";
    while (ids.length) {
      filed += (await send(ids.splice(0, AT_ONCE))).filed;
      told.value = `${plural(filed)} filed.`;
    }
    chosen.value = new Set();
    await refetch();
    // Photos of a clock are needed for as long as others wait.
    if (clocks.value.length && clocks.value.length === photos.value.length) {
      await send(clocks.value.map((one) => one.id));
      await refetch();
    }
    await trialChanged(props.id, ["photos", "course"]);
  });
</script>

<template>
  <NothingHere v-if="error" :says="problemsOf(error)[0]!.says" />
  <section v-else class="sheet min-h-[calc(100dvh-2rem)] p-4 lg:p-8">
    <LongName class="text-soft" :text="course.title" />
    <h1>Photos that file themselves</h1>
    <p class="mt-1 max-w-3xl">
      Drop a whole day's photos. The tag in each says which sample it shows, and its moment at which look.
      What they do not say is asked below; nothing is filed before you press.
    </p>
    <label
      class="drop mt-4"
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="dropped"
    >
      <b class="text-[1.2rem]">{{ going ? `Sending: ${left} to go` : "Drop photos here, or choose them" }}</b>
      <span class="text-soft">JPEG, PNG or WebP as they come from the camera, up to 25 MB each</span>
      <input
        type="file"
        class="sr-only"
        accept="image/*"
        multiple
        :disabled="going"
        aria-label="Choose photos"
        @change="taken(($event.target as HTMLInputElement).files)"
      />
    </label>
    <div v-if="count.chosen" class="mt-3" role="status">
      <p>
        <b>{{ count.sent }}</b> of {{ count.chosen }} sent<template v-if="count.twice"
          >, {{ count.twice }} {{ count.twice === 1 ? "was" : "were" }} here before and not taken
          twice</template
        ><template v-if="count.refused">, {{ count.refused }} not taken</template>.
        <button v-if="going" type="button" class="quiet" @click="stop">Stop</button>
      </p>
      <p v-if="offline" class="border-l-4 border-ink pl-3">
        There is no network now. It goes on by itself; leave this page open.
      </p>
      <ul v-if="refused.length" class="mt-1">
        <li v-for="one in refused" :key="one.name">
          <b>{{ one.name }}</b>: {{ one.says }}
        </li>
      </ul>
    </div>
    <p v-if="data?.unread" class="mt-2 text-soft" role="status">
      {{ plural(data.unread, "tag is", "tags are") }} still looked for. You may leave and come back.
    </p>
    <div class="mt-3 flex flex-wrap items-center gap-x-6 gap-y-2">
      <button type="button" class="press press-small" @click="timed = true">A camera's clock is wrong</button>
      <p v-for="(shift, i) in data?.shifts ?? []" :key="i">
        A camera was {{ shiftWords(shift.seconds) }}: {{ plural(shift.photos - 1) }} dated by its photo of a
        clock. <b v-if="shift.says">{{ shift.says }}</b>
      </p>
    </div>
    <section v-if="many" class="rule mt-6 pt-4" aria-label="Ready to be filed">
      <div class="flex flex-wrap items-center justify-between gap-3">
        <h2>{{ plural(many) }} ready to be filed</h2>
        <button type="button" class="press press-main" :disabled="busy" @click="file">
          {{ busy ? "Filing …" : `File ${plural(many)}` }}
        </button>
      </div>
      <div v-for="look in sure" :key="look.key" class="mt-3">
        <h3 class="mb-2">{{ names[look.key] }}</h3>
        <TrayPhotos v-model:chosen="chosen" :photos="look.photos" :names="names" />
      </div>
    </section>
    <ProblemText :says="other" />
    <p v-if="told" class="mt-3 border-l-4 border-ink pl-3" role="status">
      {{ told }}
      <RouterLink class="quiet" :to="{ name: 'photos', params: { id } }">See them</RouterLink>
    </p>
    <section v-if="asking" class="rule mt-6 pt-4" aria-label="To be dealt by hand">
      <h2>{{ plural(asking) }} to be dealt by hand</h2>
      <p class="text-soft">Tap those that belong together, then say where.</p>
      <div v-for="group in open" :key="group.key" class="mt-4">
        <div class="mb-2 flex flex-wrap items-baseline justify-between gap-x-4">
          <h3>{{ when(group) }}</h3>
          <button v-if="group.photos.length > 1" type="button" class="quiet" @click="all(group)">
            All {{ group.photos.length }} of these
          </button>
        </div>
        <TrayPhotos v-model:chosen="chosen" :photos="group.photos" :names="names" />
      </div>
    </section>
    <p v-if="clocks.length" class="mt-4 text-soft">
      {{ plural(clocks.length) }} of a clock: kept until the others are filed.
    </p>
    <div v-if="picked.length" class="dealbar" role="region" aria-label="Chosen photos">
      <b>{{ plural(picked.length) }} chosen</b>
      <button type="button" class="press" @click="chosen = new Set()">Choose none</button>
      <button type="button" class="press press-main" @click="dealing = true">Say what they show</button>
    </div>
    <DealDialog
      v-if="dealing"
      :id="id"
      :photos="picked"
      :course="course"
      @done="dealt"
      @close="dealing = false"
    />
    <TimeCode v-if="timed" @close="timed = false" />
  </section>
</template>

<style scoped>
.drop {
  display: grid;
  place-items: center;
  gap: 4px;
  padding: 28px 16px;
  border: 3px dashed var(--line);
  text-align: center;
  cursor: pointer;
}
.drop.over,
.drop:focus-within {
  border-color: var(--ink);
}
.dealbar {
  position: sticky;
  bottom: var(--bar);
  z-index: 5;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
  margin-top: 16px;
  padding: 12px 0;
  border-top: 3px solid var(--ink);
  background: var(--sheet);
}
</style>
