import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Message } from "../conversation/message";
import type { Content } from "../revision/revision";
import { estimateTokens } from "../tokens/estimate";
import { assemble } from "./assemble";
import { forecast, problemWith, tokensWith } from "./forecast";

const content: Content = {
  prompt: "You are the desk on {{today}}.",
  variables: {},
  provider: "p",
  model: "m",
  settings: { maxOutput: 100 },
  memory: { kind: "everything" },
};
const calibration = { ratio: 1.3, calls: 4 };

function message(depth: number, text: string): Message {
  const base = {
    id: `m${depth}`,
    parent: null,
    depth,
    pieces: [{ kind: "text" as const, text }],
    tokens: estimateTokens(text),
    at: 0,
  };
  if (depth % 2 === 0) return { ...base, role: "visitor" };
  return {
    ...base,
    role: "app",
    state: text.trim() === "" ? "failed" : "complete",
    continues: null,
    facts: { revision: 1, provider: "p", model: "m" },
  };
}

describe("the forecast", () => {
  const words = fc.constantFrom("Which boat?", "The 9:40.", "", "One, two, three and four");

  it("comes to the tokens that the ledger then accounts for, wherever the page begins", () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom("And?", "Where to?"), words), { maxLength: 6 }),
        fc.nat(5),
        (turns, cut) => {
          const line = turns.flat().map((text, depth) => message(depth, text));
          const at = Math.min(cut, turns.length) * 2;
          const above = forecast(content, line.slice(0, at), { turns: 0, tokens: 0 }, 0);
          const ahead = forecast(content, line.slice(at), { turns: above.turns, tokens: above.messages }, 0);
          const typed = "When does the next boat leave?";
          const sent = assemble({
            content,
            line: [...line, message(line.length, typed)],
            variables: {},
            window: 10_000,
            calibration,
            now: 0,
          });
          expect(sent.kind === "ready" && sent.ledger.tokens).toBe(tokensWith(ahead, typed, calibration));
          expect(ahead.turns).toBe(turns.filter(([, reply]) => reply !== "").length);
        },
      ),
    );
  });

  it("names the variables that nothing gives a value", () => {
    expect(forecast({ ...content, prompt: "At {{desk}}" }, [], { turns: 0, tokens: 0 }, 0).missing).toEqual(["desk"]);
  });

  it("tells before sending what does not fit the window together with the reply", () => {
    expect(problemWith(900, content, 1000)).toBeUndefined();
    expect(problemWith(901, content, 1000)).toMatchObject({
      kind: "too-long",
      detail: expect.stringContaining("1 too many"),
    });
  });
});
