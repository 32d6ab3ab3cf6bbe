import type { Run } from "@/contract/checks";
import type { ToldCell } from "./told";

/**
 * A run as a JUnit file: a suite a candidate, a case a check; what was silent is skipped. It has all that the strictest
 * of the schemas in use asks for: the name of a package and a host, properties, and what was written out.
 */
export function junitOf(run: Run, told: readonly ToldCell[]): string {
  const suites = run.columns.map(({ name }, place) => {
    const cells = told.filter(({ column }) => column === name);
    const count = (outcome: ToldCell["outcome"]) => cells.filter((cell) => cell.outcome === outcome).length;
    const attributes = {
      id: place,
      package: run.app,
      name: `${run.app} on ${name}`,
      hostname: "localhost",
      timestamp: new Date(run.startedAt).toISOString().slice(0, 19),
      time: seconds(cells.reduce((sum, { ms }) => sum + ms, 0)),
      tests: cells.length,
      failures: count("broke"),
      errors: 0,
      skipped: count("silent"),
    };
    return [
      `  <testsuite ${written(attributes)}>`,
      `    <properties><property ${written({ name: "run", value: run.id })}/></properties>`,
      ...cells.map(caseOf),
      "    <system-out/>",
      "    <system-err/>",
      "  </testsuite>",
    ].join("\n");
  });
  return `${['<?xml version="1.0" encoding="UTF-8"?>', "<testsuites>", ...suites, "</testsuites>"].join("\n")}\n`;
}

function caseOf({ check, column, outcome, held, broke, silent, misses, ms }: ToldCell): string {
  const attributes = { name: check.name, classname: `${check.script}.${column}`, time: seconds(ms) };
  const head = `    <testcase ${written(attributes)}`;
  if (outcome === "held") return `${head}/>`;
  const told = misses
    .map(({ line, expected, saw, trial }) => `line ${line}, trial ${trial}: ${expected}\n  ${saw}`)
    .join("\n");
  const message = `${held} of ${held + broke} trials held${silent > 0 ? `, ${silent} silent` : ""}`;
  const end =
    outcome === "broke"
      ? `<failure ${written({ type: "broke", message })}>${escaped(told)}</failure>`
      : `<skipped ${written({ message: `${message}. ${told}` })}/>`;
  return `${head}>\n      ${end}\n    </testcase>`;
}

function written(attributes: Record<string, string | number>): string {
  return Object.entries(attributes)
    .map(([name, value]) => `${name}="${escaped(String(value))}"`)
    .join(" ");
}

function seconds(ms: number): string {
  return (ms / 1000).toFixed(3);
}

const entities: Record<string, string> = {
  "&": "&amp;",
  "<": "&lt;",
  ">": "&gt;",
  '"': "&quot;",
  "\n": "&#10;",
  "\t": "&#9;",
};

/** A text as XML 1.0 takes it: signs that it has no place for are left out (production 2, Char). */
function escaped(text: string): string {
  return text
    .replace(/[^\t\n\r\u0020-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]/gu, "")
    .replace(/[&<>"\n\t]/g, (sign) => entities[sign] as string);
}
