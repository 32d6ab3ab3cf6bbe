import { type CodeLanguage, languages, programs } from "../known/known";
import type { Skill } from "../scene";
import { ferry, routes } from "../world";

interface Wanted {
  /** The place among the programs; -1 for the one about boats. */
  program: number;
  language: CodeLanguage;
  asks?: "why" | "example";
}

const named: Record<CodeLanguage, RegExp> = {
  python: /\bpython\b/i,
  javascript: /\b(?:javascript|typescript|js|ts|node)\b/i,
  bash: /\b(?:bash|shell|sh)\b/i,
};
const fence: Record<CodeLanguage, string> = { python: "python", javascript: "ts", bash: "bash" };

/** Writes a small program in one of three languages, and the same in another. */
export const code: Skill<Wanted> = {
  name: "a program",
  about: /\b(?:cod\w+|program\w*|software|develop\w+|script\w*)\b/i,
  read(message, before, { prompt }) {
    const language = languages.find((each) => named[each].test(message));
    const isAsked =
      /\b(?:code|script|program|function|snippet|one-liner)\b/i.test(message) &&
      /\b(?:write|show|give|make|create|need|want|how)\b/i.test(message);
    if (isAsked || (language && /\b(?:write|show|give|how)\b/i.test(message) && !before)) {
      const at = programs.findIndex(({ called }) => called.test(message));
      const isFerry = at < 0 && (ferry.test(prompt) || ferry.test(message) || /\bfor it\b/i.test(message));
      return { program: isFerry ? -1 : at < 0 ? programs.length - 1 : at, language: language ?? "javascript" };
    }
    if (!before) return undefined;
    if (language) return { ...before, language, asks: undefined };
    if (/^why\b|\bhow does (?:it|that) work\b|\bexplain\b/i.test(message)) return { ...before, asks: "why" };
    return /\bexample\b|\bwhat does it print\b/i.test(message) ? { ...before, asks: "example" } : undefined;
  },
  say({ program, language, asks }, { choices }) {
    if (program < 0) return ofBoats();
    const { does, code, prints, why } = programs[program] as (typeof programs)[number];
    if (asks === "why") return why;
    if (asks === "example") return `Run as it stands, it prints \`${prints}\`.`;
    const lead = choices.one([`This ${does}:`, `Here is one that ${does}:`, `A short one; it ${does}:`]);
    return `${lead}\n\n\`\`\`${fence[language]}\n${code[language]}\n\`\`\`\n\n${choices.one(["It prints", "Run, it prints", "The example prints"])} \`${prints}\`.`;
  },
};

function ofBoats(): string {
  const rows = routes["Tansy Holm"].sailings
    .map(({ time, bicycles }) => `  { time: "${time}", bicycles: ${bicycles} },`)
    .join("\n");
  return `This finds the first boat to Tansy Holm that has room for your bicycles:\n\n\`\`\`ts\nconst sailings = [\n${rows}\n];\n\nfunction firstWithRoom(bicycles: number) {\n  return sailings.find((sailing) => sailing.bicycles >= bicycles);\n}\n\nconsole.log(firstWithRoom(6)?.time ?? "none has room");\n\`\`\`\n\nIt prints \`9:40\`, the first with eight places.`;
}
