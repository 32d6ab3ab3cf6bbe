import { describe, expect, it } from "vitest";
import type { Content } from "../revision/content";
import { uncalibrated } from "../tokens/calibration";
import { forecast } from "./forecast";
import { mendsOf } from "./mends";
import { rowOf } from "./row";
import { askedFor, line, plainContent } from "./test/line";

const turns = Array.from({ length: 12 }, (_, at) => [`Question ${at + 1}?`, `Answer ${at + 1}.`]).flat();

function ahead(content: Content, window: number) {
  const model = {
    window,
    maxOutput: content.settings.maxOutput,
    calibration: uncalibrated,
    by: askedFor().by,
  };
  return forecast(content, { rows: line(...turns).map(rowOf) }, model, 0);
}

describe("the mends of a context that is too long", () => {
  it("are none where it fits", () => {
    expect(mendsOf(ahead(plainContent, 4_000), plainContent)).toEqual([]);
  });

  it("are to carry less than everything, and to keep less for the reply: after each of them it fits", () => {
    const content: Content = { ...plainContent, settings: { maxOutput: 400 } };
    const long = ahead(content, 600);
    expect(long.problem?.kind).toBe("too-long");
    const mends = mendsOf(long, content);
    expect(mends.map(({ kind }) => kind)).toEqual(["carry-less", "shorter-reply"]);
    for (const { change } of mends) expect(ahead({ ...content, ...change }, 600).problem).toBeUndefined();
  });

  it("are none where the prompt alone is too long and nothing is kept for the reply", () => {
    const content: Content = {
      ...plainContent,
      prompt: "Be brief. ".repeat(400),
      settings: {},
      memory: { kind: "nothing" },
    };
    expect(ahead(content, 500).problem?.kind).toBe("too-long");
    expect(mendsOf(ahead(content, 500), content)).toEqual([]);
  });
});
