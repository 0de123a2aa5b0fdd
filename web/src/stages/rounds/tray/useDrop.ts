/** Sending a heap of photos: two at a time, none that was sent before, each refusal with its file's name. */
import { computed, onBeforeUnmount, reactive, ref, type MaybeRefOrGetter, toValue } from "vue";

import { answer, api } from "@/shell/api/client";
import { Unreachable, problemsOf } from "@/shell/api/problems";
import { likePhoto } from "./tray";

const AT_A_TIME = 2;
const ASKED_AT_ONCE = 20;
const PAUSE = 3000;
const MOST_TOLD = 20;

async function digestOf(file: File): Promise<string> {
  const bytes = new Uint8Array(await crypto.subtle.digest("SHA-256", await file.arrayBuffer()));
  return [...bytes].map((one) => one.toString(16).padStart(2, "0")).join("");
}

export function useDrop(trial: MaybeRefOrGetter<string>, after: () => Promise<unknown>) {
  const count = reactive({ chosen: 0, sent: 0, twice: 0, refused: 0 });
  const refused = ref<{ name: string; says: string }[]>([]);
  const offline = ref(false);
  const going = ref(false);
  const stopped = ref(false);
  const goesOn = () => !stopped.value;
  const left = computed(() => count.chosen - count.sent - count.twice - count.refused);

  function refuse(file: File, says: string): void {
    count.refused += 1;
    if (refused.value.length < MOST_TOLD) refused.value.push({ name: file.name, says });
  }

  async function send(file: File): Promise<void> {
    const form = new FormData();
    form.append("id", crypto.randomUUID());
    form.append("copied_at", new Date(file.lastModified).toISOString());
    form.append("file", file);
    while (goesOn()) {
      try {
        const told = await answer(
          api.POST("/api/trials/{trial_id}/tray", {
            params: { path: { trial_id: toValue(trial) } },
            body: form as never,
            bodySerializer: (body: unknown) => body as FormData,
          }),
        );
        offline.value = false;
        count[told.twice ? "twice" : "sent"] += 1;
        return;
      } catch (error) {
        if (!(error instanceof Unreachable)) {
          refuse(file, problemsOf(error)[0]?.says ?? "It was not taken.");
          return;
        }
        offline.value = true;
        await new Promise((resolve) => window.setTimeout(resolve, PAUSE));
      }
    }
  }

  /** Of `files` those that were not dropped here before. */
  async function fresh(files: File[]): Promise<File[]> {
    try {
      const digests = await Promise.all(files.map(digestOf));
      const body = { digests };
      const known = await answer(
        api.POST("/api/trials/{trial_id}/tray/known", {
          params: { path: { trial_id: toValue(trial) } },
          body,
        }),
      );
      const found = files.filter((_, i) => !known.digests.includes(digests[i] ?? ""));
      count.twice += files.length - found.length;
      return found;
    } catch {
      // Whoever answers to the photo itself says so too.
      return files;
    }
  }

  async function add(files: File[]): Promise<void> {
    if (!files.length || going.value) return;
    Object.assign(count, { chosen: files.length, sent: 0, twice: 0, refused: 0 });
    refused.value = [];
    stopped.value = false;
    going.value = true;
    window.addEventListener("beforeunload", warn);
    const photos = files.filter(likePhoto);
    for (const file of files) if (!likePhoto(file)) refuse(file, "This is no photo.");
    for (let i = 0; i < photos.length && goesOn(); i += ASKED_AT_ONCE) {
      const some = await fresh(photos.slice(i, i + ASKED_AT_ONCE));
      const lane = async () => {
        for (let next = some.shift(); next && goesOn(); next = some.shift()) await send(next);
      };
      await Promise.all(Array.from({ length: AT_A_TIME }, lane));
      await after();
    }
    going.value = offline.value = false;
    window.removeEventListener("beforeunload", warn);
    await after();
  }
  const warn = (event: BeforeUnloadEvent) => event.preventDefault();
  function stop(): void {
    stopped.value = true;
  }
  onBeforeUnmount(() => {
    stop();
    window.removeEventListener("beforeunload", warn);
  });
  return { add, stop, count, left, refused, offline, going };
}
