import { written } from "./units";

/** A sum that was worked out: as it was read, its value, and the steps to it in the order in which they are done. */
export interface Sum {
  sum: string;
  value: number;
  steps: string[];
}

/**
 * The value of the sum in a text such as "what is 12 * (3 + 4)?" or "17 plus 5"; undefined when
 * there is none. Precedence as in mathematics.
 */
export function sumIn(text: string): Sum | undefined {
  const spelt = text
    .replace(/\bplus\b/gi, "+")
    .replace(/\bminus\b/gi, "-")
    .replace(/\b(?:times|multiplied by)\b|×/gi, "*")
    .replace(/\bdivided by\b|÷/gi, "/")
    .replace(/,(?=\d{3}\b)/g, "");
  const sum = /[-(]*\s*\d[\d.\s()*/+-]*[*/+-][\d.\s()*/+-]*\d\)*/.exec(spelt)?.[0].trim();
  if (sum === undefined) return undefined;
  const steps: string[] = [];
  const value = evaluate(sum, steps);
  return value === undefined
    ? undefined
    : { sum: sum.replace(/\s*([*/+-])\s*/g, " $1 "), value: Math.round(value * 1e9) / 1e9, steps };
}

const signs = { "+": "+", "-": "−", "*": "×", "/": "÷" } as const;
type Sign = keyof typeof signs;

function evaluate(sum: string, steps: string[]): number | undefined {
  const tokens = sum.match(/\d+(?:\.\d+)?|[-+*/()]/g) ?? [];
  let at = 0;
  const done = (a: number, sign: Sign, b: number): number => {
    const value = sign === "+" ? a + b : sign === "-" ? a - b : sign === "*" ? a * b : a / b;
    steps.push(`${written(a)} ${signs[sign]} ${written(b)} = ${written(value)}`);
    return value;
  };
  const term = (): number => {
    let value = factor();
    while (tokens[at] === "*" || tokens[at] === "/") value = done(value, tokens[at++] as Sign, factor());
    return value;
  };
  const expression = (): number => {
    let value = term();
    while (tokens[at] === "+" || tokens[at] === "-") value = done(value, tokens[at++] as Sign, term());
    return value;
  };
  const factor = (): number => {
    const token = tokens[at++];
    if (token === "-") return -factor();
    if (token !== "(") return Number(token);
    const value = expression();
    return tokens[at++] === ")" ? value : Number.NaN;
  };
  const value = expression();
  return at === tokens.length && Number.isFinite(value) ? value : undefined;
}
