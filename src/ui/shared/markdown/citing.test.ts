import { expect, it } from "vitest";
import { citeMarking } from "./citing";
import { stretchesOf } from "./marks";

const stretches = (text: string) =>
  stretchesOf(text, 0, citeMarking(new Set(["rules 1", "rules 2"]), new Set(["rules 9"]))(text, 0)).map(
    ({ text, mark }) => [text, mark ? (mark.cites ?? mark.as) : ""],
  );

it("marks that a reply had are links, those that it did not have are said to be none, all else is words", () => {
  expect(stretches("Free [rules 1]. See [rules 9] and [figure 2].")).toEqual([
    ["Free ", ""],
    ["[rules 1]", "rules 1"],
    [". See ", ""],
    ["[rules 9]", "stray"],
    [" and [figure 2].", ""],
  ]);
  expect(stretches("Both [rules 1, rules 2].")).toEqual([
    ["Both ", ""],
    ["[rules 1, ", "rules 1"],
    ["rules 2]", "rules 2"],
    [".", ""],
  ]);
});
