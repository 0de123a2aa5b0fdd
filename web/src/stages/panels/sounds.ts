/** Sounds played in step, so that one is left for another at the same moment of the music, without a click.
 */
import { sure } from "@/parts/sure";

/** Seconds over which one fades into another: too short to hear as a gap, long enough not to click. */
const CROSS = 0.015;

export class Player {
  private context = new AudioContext();
  private gains: GainNode[] = [];
  private sources: AudioBufferSourceNode[] = [];
  heard: number | null = null;

  /** Decode the files; all are of the same length. */
  async load(files: Blob[]): Promise<void> {
    const buffers = await Promise.all(
      files.map(async (file) => this.context.decodeAudioData(await file.arrayBuffer())),
    );
    const start = this.context.currentTime + 0.05;
    this.gains = buffers.map(() => new GainNode(this.context, { gain: 0 }));
    this.sources = buffers.map((buffer, i) => {
      const source = new AudioBufferSourceNode(this.context, { buffer, loop: true });
      source.connect(sure(this.gains[i])).connect(this.context.destination);
      source.start(start);
      return source;
    });
    await this.context.suspend();
  }

  /** Hear the sound at `place`, or none. */
  async hear(place: number | null): Promise<void> {
    this.heard = place;
    if (place !== null) await this.context.resume();
    const at = this.context.currentTime;
    this.gains.forEach((gain, i) => {
      gain.gain.cancelScheduledValues(at);
      gain.gain.setValueAtTime(gain.gain.value, at);
      gain.gain.linearRampToValueAtTime(i === place ? 1 : 0, at + CROSS);
    });
    if (place === null) window.setTimeout(() => this.heard === null && void this.context.suspend(), 60);
  }

  async close(): Promise<void> {
    this.sources.forEach((source) => source.stop());
    await this.context.close();
  }
}
