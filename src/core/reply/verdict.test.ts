import { describe, expect, it } from "vitest";
import { type Arrival, verdictOf } from "./verdict";

const steady: Arrival[] = Array.from({ length: 20 }, (_, at) => [300 + at * 100, 60] as const);
const late: Arrival[] = [[4100, 1200]];

describe("the verdict on a stream", () => {
  it.each([
    ["came bit by bit at both ends", steady, steady, true, "steady"],
    ["came in one burst at the server", late, late, true, "held back by the provider"],
    ["came bit by bit at the server and in one burst at the reader", steady, late, true, "held back on the way"],
    ["has a reader that tells nothing", steady, null, true, "steady"],
    ["was not asked to stream", late, null, false, "at once"],
    [
      "was over in a moment",
      [
        [20, 600],
        [30, 600],
      ] as Arrival[],
      null,
      true,
      "at once",
    ],
    ["brought nothing", [], null, true, "unknown"],
  ] as const)("that %s", (_what, server, reader, streams, kind) => {
    expect(verdictOf(server, reader, streams).kind).toBe(kind);
  });

  it("says where the text was held, and when it came", () => {
    expect(verdictOf(steady, late, true).saying).toBe(
      "It arrived at the server bit by bit, in 20 parts over 1.90 s, at the browser in one burst after 4.10 s: something between them holds the stream back.",
    );
    expect(verdictOf(steady, null, true).saying).toContain("How it reached its reader is not known");
  });
});
