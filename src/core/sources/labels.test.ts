import { expect, test } from "vitest";
import type { Content } from "../revision/content";
import { forLabels } from "./labels";
import { labelSchema, withDocument } from "./sources";

const content: Content = {
  prompt: "",
  variables: {},
  provider: "p",
  model: "m",
  settings: {},
  memory: { kind: "everything" },
  sources: {
    documents: [
      { source: "rules" },
      { source: "rota", labels: ["crew", "office"] },
      { source: "pay", labels: ["office"] },
    ],
  },
};
const named = (labels: readonly string[] | undefined) =>
  forLabels(content, labels).sources?.documents.map(({ source }) => source);

test.each([
  [undefined, ["rules", "rota", "pay"]],
  [[], ["rules"]],
  [["crew"], ["rules", "rota"]],
  [
    ["office", "guests"],
    ["rules", "rota", "pay"],
  ],
  [["Crew"], ["rules"]],
])("a caller with the labels %j is answered from %j", (labels, documents) => {
  expect(named(labels)).toEqual(documents);
});

test("for whom a document is stays as it was when a newer one is taken, or it follows", () => {
  const documents = content.sources?.documents ?? [];
  const version = "a".repeat(64);
  expect(withDocument(documents, "pay", version).at(-1)).toEqual({ source: "pay", version, labels: ["office"] });
  expect(withDocument(documents, "pay", undefined).at(-1)).toEqual({ source: "pay", labels: ["office"] });
  expect(withDocument(documents, "new", version)).toHaveLength(4);
});

test("a content without labelled documents is the same one", () => {
  const plain = { ...content, sources: { documents: [{ source: "rules" }] } };
  expect(forLabels(plain, [])).toBe(plain);
});

test.each(["two words", "", "x".repeat(41), "a,b"])("%j is no label", (label) => {
  expect(labelSchema.safeParse(label).success).toBe(false);
});
