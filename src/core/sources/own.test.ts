import { expect, it } from "vitest";
import type { Content } from "../revision/content";
import { withOwn } from "./own";
import { sourcesSchema } from "./sources";

const plain: Content = {
  prompt: "Be brief.",
  variables: {},
  provider: "p",
  model: "m",
  settings: {},
  memory: { kind: "everything" },
};
const own = [{ id: "doc_1", hash: "a".repeat(64) }];
const named = [{ source: "doc_1", version: "a".repeat(64) }];

it("is answered from beside the documents that a content names, under the rules that it has", () => {
  const content: Content = { ...plain, sources: { documents: [{ source: "rules" }], best: 3 } };
  expect(withOwn(content, own)).toEqual({ ...plain, sources: { documents: [{ source: "rules" }, ...named], best: 3 } });
  expect(content.sources?.documents).toHaveLength(1);
});

it("does not keep an app without documents from answering as it did", () => {
  expect(withOwn(plain, own).sources).toEqual({ documents: named, beyond: true });
  expect(withOwn(plain, [])).toBe(plain);
});

it("is named by no content that is kept", () => {
  const read = sourcesSchema.safeParse({ documents: [{ source: "doc_1" }] });
  expect(read.error?.issues[0]?.message).toBe("is a visitor's, and answers nobody else");
});
