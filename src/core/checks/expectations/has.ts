import { marked, type Token } from "marked";
import { Unreadable } from "../fault";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

const forms = ["list", "table", "code", "heading", "link", "picture", "bold", "Markdown"] as const;
type Form = (typeof forms)[number];

interface Has extends Expects {
  kind: "has";
  form: Form;
}

/** The tokens of Markdown (CommonMark, with tables) that make a form. */
const tokens: Record<Exclude<Form, "Markdown">, readonly string[]> = {
  list: ["list"],
  table: ["table"],
  code: ["code", "codespan"],
  heading: ["heading"],
  link: ["link"],
  picture: ["image"],
  bold: ["strong"],
};
const all = [...Object.values(tokens).flat(), "em", "del", "blockquote", "hr"];

/** A form of Markdown in the reply. */
export const has: ExpectationKind<Has, { found: string[]; said: string }> = {
  forms: ["has a list", "has no table", "has code", "has no link", "has no Markdown", "has a heading"],
  read(phrase) {
    const form = phrase.takesOne(["has", "has a", "has an", "has no"]);
    if (!form) return undefined;
    const what = phrase.takesOne([...forms, ...forms.map((each) => `${each}s` as const)]);
    if (!what) throw new Unreadable("what it has is missing", `Write one of ${forms.join(", ")}.`);
    const named = forms.find((each) => what === each || what === `${each}s`) as Form;
    return { kind: "has", form: named, not: form === "has no" || undefined };
  },
  write({ form, not }) {
    if (not) return `has no ${form}`;
    return form === "Markdown" || form === "code" || form === "bold" ? `has ${form}` : `has a ${form}`;
  },
  judge({ form }, { text }) {
    const found = typesIn(text);
    const wanted = form === "Markdown" ? all : tokens[form];
    return {
      isMet: wanted.some((each) => found.has(each)),
      saw: { found: all.filter((each) => found.has(each)), said: excerpt(text) },
    };
  },
  tell: ({ found, said }) =>
    found.length === 0
      ? `has plain text alone: ${inQuotes(said)}`
      : `has ${found.map((each) => names[each] ?? each).join(", ")}: ${inQuotes(said)}`,
};

const names: Record<string, string> = {
  codespan: "code",
  image: "a picture",
  strong: "bold words",
  em: "slanted words",
  del: "struck words",
  blockquote: "a quotation",
  hr: "a rule",
  list: "a list",
  table: "a table",
  heading: "a heading",
  link: "a link",
};

/** The kinds of Markdown in a text. An address that stands by itself is no link of the reply's. */
function typesIn(text: string): Set<string> {
  const found = new Set<string>();
  marked.walkTokens(marked.lexer(text), (token: Token) => {
    if (token.type === "link" && token.raw === token.text) return;
    found.add(token.type);
  });
  return found;
}
