import { describe, expect, it } from "vitest";
import type { Content } from "../revision/content";
import { candidateRows, laneChanges } from "./candidates";

const base: Content = {
  prompt: "You are Quay Desk.",
  variables: {},
  provider: "reedbed",
  model: "reed-deep",
  settings: { temperature: 0.7 },
  memory: { kind: "everything" },
};
const words = { provider: (slug: string) => slug, memory: ({ kind }: Content["memory"]) => kind };

describe("what differs between candidates", () => {
  it("is a row for each thing that is not the same in all", () => {
    const cooler = { ...base, settings: { temperature: 0.2 } };
    const other: Content = { ...base, model: "reed-swift", memory: { kind: "nothing" } };
    expect(candidateRows([base, cooler, other], words)).toEqual([
      { what: "temperature", values: ["0.7", "0.2", "0.7"] },
      { what: "model", values: ["reed-deep", "reed-deep", "reed-swift"] },
      { what: "memory", values: ["everything", "everything", "nothing"] },
    ]);
    expect(candidateRows([base, base], words)).toEqual([]);
  });
});

describe("in what a content was changed from its base", () => {
  it("is what a sentence says of it", () => {
    expect(laneChanges(base, base)).toEqual({});
    expect(
      laneChanges(base, { ...base, model: "reed-swift", prompt: "Other.", settings: { temperature: 0.7, topK: 4 } }),
    ).toEqual({ model: { provider: "reedbed", model: "reed-swift" }, prompt: true, more: true });
    expect(laneChanges(base, { ...base, settings: { temperature: 0.2, maxOutput: 90 } })).toEqual({
      temperature: 0.2,
      maxOutput: 90,
    });
  });
});
