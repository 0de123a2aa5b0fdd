/** Climbing a ladder of loads: what has been tapped so far, and what it comes to. */
import { sure } from "@/parts/sure";
export interface Climb {
  /** How often the sample has survived, over all steps. */
  survived: number;
  broke: boolean;
}

export interface Standing {
  /** The load that is put on now; null once it is over. */
  load: number | null;
  /** Which time this load is put on now, and how often in all. */
  turn: number;
  turns: number;
  /** The highest step held through all its turns. */
  held: number;
  /** It held the top step: it would have held more. */
  top: boolean;
}

export function standingOf(climb: Climb, steps: number[], repeats: number): Standing {
  const passed = Math.min(Math.floor(climb.survived / repeats), steps.length);
  const held = passed ? sure(steps[passed - 1]) : 0;
  const top = passed === steps.length;
  return {
    load: climb.broke || top ? null : sure(steps[passed]),
    turn: (climb.survived % repeats) + 1,
    turns: repeats,
    held,
    top,
  };
}
