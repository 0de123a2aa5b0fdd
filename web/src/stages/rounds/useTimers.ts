/** Timers inside a round: several at once, kept on the device so that a reload does not stop them, ringing
 * when they end.
 */
import { shake } from "@/parts/device";
import { computed, onUnmounted, ref } from "vue";

import { device, type KeptTimer } from "@/shell/offline/device";

const TICK = 250;
/** How long after its end a timer still rings, where the page was away meanwhile. */
const RINGS_FOR = 30 * 60_000;

/** Three short tones and a shake; silent where the browser does not allow either. */
export function ring(): void {
  shake([200, 100, 200, 100, 400]);
  try {
    const sound = new AudioContext();
    for (const [i, pitch] of [660, 660, 880].entries()) {
      const tone = sound.createOscillator();
      const level = sound.createGain();
      tone.frequency.value = pitch;
      level.gain.setValueAtTime(0.25, sound.currentTime + i * 0.3);
      level.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + i * 0.3 + 0.25);
      tone.connect(level).connect(sound.destination);
      tone.start(sound.currentTime + i * 0.3);
      tone.stop(sound.currentTime + i * 0.3 + 0.26);
    }
    window.setTimeout(() => void sound.close(), 2_000);
  } catch {
    // No sound here; the timer shows that it has ended.
  }
}

/** "1:05" of milliseconds, never below nothing. */
export function left(milliseconds: number): string {
  const seconds = Math.max(0, Math.ceil(milliseconds / 1000));
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}

export function useTimers(trial: string, alarm: () => void = ring) {
  const timers = ref<KeptTimer[]>([]);
  const now = ref(Date.now());
  void device.timers
    .where({ trial })
    .toArray()
    .then((kept) => {
      const known = new Set(timers.value.map((one) => one.id));
      timers.value.push(...kept.filter((one) => !known.has(one.id) && now.value - one.ends < RINGS_FOR));
    });

  async function begin(code: string, minutes: number, says: string): Promise<void> {
    const timer = {
      id: crypto.randomUUID(),
      trial,
      code,
      says,
      ends: Date.now() + minutes * 60_000,
      rung: 0,
    };
    timers.value.push(timer);
    await device.timers.put({ ...timer });
  }
  async function end(id: string): Promise<void> {
    timers.value = timers.value.filter((one) => one.id !== id);
    await device.timers.delete(id);
  }
  const ticking = window.setInterval(() => {
    now.value = Date.now();
    for (const one of timers.value.filter((each) => !each.rung && each.ends <= now.value)) {
      one.rung = now.value;
      void device.timers.put({ ...one });
      alarm();
    }
  }, TICK);
  onUnmounted(() => window.clearInterval(ticking));

  const inOrder = computed(() =>
    [...timers.value]
      .sort((a, b) => a.ends - b.ends)
      .map((one) => ({ ...one, left: left(one.ends - now.value), over: one.ends <= now.value })),
  );
  return { timers: inOrder, begin, end };
}

export type TimersAtWork = ReturnType<typeof useTimers>;
