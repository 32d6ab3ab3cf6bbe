import { describe, expect, it } from "vitest";
import { secretsIn, withSecrets } from "./secrets";
import { toolSchema } from "./tool";

const tool = (name: string, answer: object) => toolSchema.parse({ name, description: name, answer });
const address = (...values: string[]) => ({
  by: "address",
  url: "http://quay.test/places",
  headers: values.map((value, at) => ({ name: `X-${at}`, value })),
});

describe("secrets that headers of tools name", () => {
  it("are each named once, in order, and other answers name none", () => {
    const tools = [
      tool("a", address("Bearer $QUAY_KEY", "$USER:$QUAY_KEY")),
      tool("b", address("plain", "$OTHER")),
      tool("c", { by: "text", text: "$NOT_ONE" }),
    ];
    expect(secretsIn(tools)).toEqual(["QUAY_KEY", "USER", "OTHER"]);
    expect(secretsIn([])).toEqual([]);
  });

  it("take their places, and nothing that is filled in is looked at again", () => {
    expect(withSecrets("$A:$B and 5$ or $1", (name) => `<${name}$A>`)).toBe("<A$A>:<B$A> and 5$ or $1");
  });
});
