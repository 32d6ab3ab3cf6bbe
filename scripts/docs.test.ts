import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { expectationForms } from "@/core/checks/expectations/expectations";
import { parseScript } from "@/core/checks/parse";

const page = (name: string) => readFileSync(`docs/${name}.md`, "utf8");
const fences = (text: string) => [...text.matchAll(/^```\w*\n([\s\S]*?)^```$/gm)].map(([, code = ""]) => code);

describe("the page on checks", () => {
  it("names every expectation in a form of its own", () => {
    const told = page("checks");
    const untold = expectationForms.flat().filter((form) => !told.includes(`\`${form}\``));
    expect(untold).toEqual([]);
  });

  it("shows scripts that can be read, and so does the README", () => {
    const scripts = [...fences(page("checks")), ...fences(readFileSync("README.md", "utf8"))].filter((text) =>
      text.startsWith("check  "),
    );
    expect(scripts).toHaveLength(2);
    for (const script of scripts) expect(parseScript(script).faults).toEqual([]);
  });
});
