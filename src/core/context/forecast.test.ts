import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { assemble } from "./assemble";
import { forecast, withTyped } from "./forecast";
import type { Room } from "./reach";
import { line, plainContent, type Said } from "./test-line";

const content = { ...plainContent, prompt: "You are the desk on {{today}}." };
const room: Room = { window: 10_000, maxOutput: 100, calibration: { ratio: 1.3, calls: 4 } };

describe("the forecast", () => {
  const words = fc.constantFrom("Which boat?", "The 9:40.", "", "One, two, three and four");

  it("comes to the tokens that the ledger then accounts for, wherever the page begins", () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom("And?", "Where to?"), words), { maxLength: 6 }),
        fc.nat(5),
        (turns, cut) => {
          const typed = "When does the next boat leave?";
          const said = turns.flatMap(([question, text]): Said[] => [
            question,
            [text === "" ? "failed" : "complete", text],
          ]);
          const at = Math.min(cut, turns.length) * 2;
          const ahead = forecast(content, line(...said).slice(at), room, 0);
          const { window, calibration } = room;
          const sent = assemble({ content, variables: {}, window, calibration, now: 0 }, line(...said, typed));
          if (at < said.length || at === 0)
            expect(sent.kind === "ready" && sent.ledger.tokens).toBe(withTyped(ahead, typed).tokens);
          if (at < said.length) expect(ahead.earlier.turns).toBe(turns.filter(([, reply]) => reply !== "").length);
        },
      ),
    );
  });

  it("names the variables that nothing gives a value", () => {
    const { problem } = forecast({ ...content, prompt: "At {{desk}}" }, [], room, 0);
    expect(problem).toMatchObject({ kind: "bad-request", detail: expect.stringContaining("{{desk}}") });
  });

  it("tells before sending what does not fit the window together with the reply", () => {
    const tight = { ...room, window: 135 };
    expect(forecast(content, [], tight, 0).problem).toBeUndefined();
    expect(withTyped(forecast(content, [], tight, 0), "Which boat goes to Brindle on a Sunday?").problem).toMatchObject(
      { kind: "too-long", detail: expect.stringMatching(/: \d+ too many/) },
    );
  });
});
