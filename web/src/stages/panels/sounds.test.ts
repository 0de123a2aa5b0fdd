import { sure } from "@/parts/sure";
import { beforeEach, expect, it, vi } from "vitest";

import { Player } from "./sounds";

interface Ramp {
  to: number;
  at: number;
}
class Gain {
  ramps: Ramp[] = [];
  gain = {
    value: 0,
    cancelScheduledValues: vi.fn(),
    setValueAtTime: vi.fn(),
    linearRampToValueAtTime: (to: number, at: number) => {
      this.ramps.push({ to, at });
      this.gain.value = to;
    },
  };
  connect = () => this;
}
const gains: Gain[] = [];
const starts: number[] = [];
class Source {
  loop: boolean;
  constructor(_: unknown, options: { loop: boolean }) {
    this.loop = options.loop;
  }
  connect = (to: Gain) => to;
  start = (at: number) => starts.push(at);
  stop = vi.fn();
}
class Context {
  currentTime = 3;
  destination = {};
  decodeAudioData = async () => ({});
  suspend = vi.fn(async () => undefined);
  resume = vi.fn(async () => undefined);
  close = vi.fn(async () => undefined);
}
beforeEach(() => {
  gains.length = starts.length = 0;
  vi.stubGlobal("AudioContext", Context);
  vi.stubGlobal(
    "GainNode",
    class extends Gain {
      constructor() {
        super();
        gains.push(this);
      }
    },
  );
  vi.stubGlobal("AudioBufferSourceNode", Source);
});

it("starts all at one moment, and fades from one to the other without a jump", async () => {
  const player = new Player();
  await player.load([new Blob(["a"]), new Blob(["b"]), new Blob(["c"])]);
  expect(new Set(starts).size).toBe(1);
  await player.hear(1);
  expect(gains.map((one) => sure(one.ramps.at(-1)).to)).toEqual([0, 1, 0]);
  await player.hear(2);
  expect(gains.map((one) => sure(one.ramps.at(-1)).to)).toEqual([0, 0, 1]);
  const over = sure(sure(gains[2]).ramps.at(-1)).at - 3;
  expect(over).toBeGreaterThan(0.005);
  expect(over).toBeLessThan(0.05);
  await player.hear(null);
  expect(gains.every((one) => sure(one.ramps.at(-1)).to === 0)).toBe(true);
  expect(player.heard).toBeNull();
  await player.close();
});
