import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { assemble } from "./assemble";
import { forecast, withTyped } from "./forecast";
import { rowOf } from "./row";
import { askedFor, line, plainContent, type Said } from "./test/line";

const content = { ...plainContent, prompt: "You are the desk on {{today}}." };
const { calibration, by } = askedFor();
const model = { window: 10_000, maxOutput: 100, calibration, by };

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
          const rows = line(...said)
            .slice(at)
            .map(rowOf);
          const ahead = forecast(content, { rows }, model, 0);
          const sent = assemble(askedFor({ content, window: 10_000 }), line(...said, typed));
          if (at < said.length || at === 0)
            expect(sent.kind === "ready" && sent.ledger.tokens).toBe(withTyped(ahead, typed).tokens);
          if (at < said.length) expect(ahead.turns.turns).toBe(turns.filter(([, reply]) => reply !== "").length);
        },
      ),
    );
  });

  it("names the variables that nothing gives a value, and takes a sample for one", () => {
    const asks = { ...content, prompt: "At {{desk}}" };
    const { problem } = forecast(asks, { rows: [] }, model, 0);
    expect(problem).toMatchObject({ kind: "bad-request", detail: expect.stringContaining("{{desk}}") });
    expect(forecast({ ...asks, samples: { desk: "Mill Quay" } }, { rows: [] }, model, 0).problem).toBeUndefined();
  });

  it("tells before sending what does not fit the window together with the reply", () => {
    const tight = { ...model, window: 150 };
    expect(forecast(content, { rows: [] }, tight, 0).problem).toBeUndefined();
    expect(
      withTyped(
        forecast(content, { rows: [] }, tight, 0),
        "Which boat goes to Brindle on a Sunday, and when?".repeat(2),
      ).problem,
    ).toMatchObject({ kind: "too-long", detail: expect.stringMatching(/: \d+ too many/) });
  });

  it("says what typing more of it pushes out", () => {
    const said = Array.from({ length: 6 }, (_, at) => [`Question ${at}?`, `Answer ${at}.`]).flat();
    const memory = { kind: "last-turns", turns: 6 } as const;
    const ahead = forecast({ ...content, memory }, { rows: line(...said).map(rowOf) }, { ...model, window: 330 }, 0);
    const typed = withTyped(ahead, "And how many bicycles may go on it, and what does the dog cost? ".repeat(4));
    expect(typed.turns.turns).toBeLessThan(ahead.turns.turns);
    expect(typed.problem).toBeUndefined();
  });
});
