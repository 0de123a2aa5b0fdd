import { sure } from "@/parts/sure";
import { describe, expect, it } from "vitest";

import { box, drawn, grown, moved, round } from "./marking";

describe("marks", () => {
  it("are made from any two corners, and not from a tap", () => {
    expect(round([0.6, 0.7], [0.2, 0.1])).toEqual({
      kind: "ellipse",
      points: [
        [0.2, 0.1],
        [0.6, 0.7],
      ],
    });
    expect(round([0.5, 0.5], [0.505, 0.9])).toBeNull();
    expect(box([0, 0], [0.5, 0.5])?.points).toHaveLength(4);
  });

  it("stay inside the photo when they are moved", () => {
    const mark = sure(round([0.2, 0.2], [0.4, 0.4]));
    expect(sure(moved(mark, 0.9, 0).points[1])[0]).toBeCloseTo(1);
    expect(sure(moved(mark, 0, -0.9).points[0])[1]).toBeCloseTo(0);
    expect(sure(moved(mark, 0.1, 0.1).points[0])[0]).toBeCloseTo(0.3);
  });

  it("grow around their middle", () => {
    const larger = grown(sure(round([0.4, 0.4], [0.6, 0.6])), 2);
    expect(sure(larger.points[0])[0]).toBeCloseTo(0.3);
    expect(sure(larger.points[1])[1]).toBeCloseTo(0.7);
  });

  it("are drawn as a closed path", () => {
    expect(drawn(sure(box([0, 0], [0.5, 0.5])), 100, 50)).toBe("M0 0L50 0L50 25L0 25z");
    expect(drawn(sure(round([0, 0], [1, 1])), 100, 50)).toBe("M0 25a50 25 0 1 0 100 0a50 25 0 1 0 -100 0z");
  });
});
