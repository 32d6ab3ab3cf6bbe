import { describe, expect, it } from "vitest";
import type { Block } from "./cut";
import { countFor, weightOf } from "./weights";

const block = (text: string, kind: Block["kind"] = "text"): Block => ({ kind, text, joins: "no" });

describe("what showing a block takes", () => {
  it("is more for what has more elements, and the same each time", () => {
    const plain = block("a boat ".repeat(20));
    const table = block("| a | b |\n".repeat(14));
    expect(weightOf(table)).toBeGreaterThan(weightOf(plain) * 3);
    expect(weightOf(block("```\nx\n```"))).toBeGreaterThan(weightOf(block("x\nx\nx")));
    expect(weightOf(plain)).toBe(weightOf(plain));
  });

  it("gives as many blocks as weigh so much, and at least one", () => {
    const blocks = Array.from({ length: 10 }, () => block("x".repeat(1_000)));
    expect(countFor(1, blocks, 0)).toBe(1);
    expect(countFor(weightOf(blocks[0] as Block) * 3, blocks, 0)).toBe(3);
    expect(countFor(1_000_000, blocks, 4)).toBe(6);
    expect(countFor(1_000_000, blocks, 10)).toBe(0);
  });
});
