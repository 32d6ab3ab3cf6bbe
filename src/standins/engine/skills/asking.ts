import type { Exchange, Skill } from "../scene";

/** What a prompt wants asked, and what comes after the last of it. */
interface Agenda {
  questions: string[];
  then: "goodbye" | "again" | "nothing";
}

interface Wanted {
  /** What is asked next; undefined where all was asked. */
  question: string | undefined;
  /** Whether it is the first. */
  isFirst: boolean;
  then: Agenda["then"];
}

const agenda =
  /\bask (?:about )?(?:these|the following)[^:\n]*:\s*([\s\S]+?)(?=\n\s*\n|\bThen\b|\bWhen (?:all|everything)\b|$)/i;

/** Asks what its prompt tells it to ask, one thing after another: it is the visitor of another. */
export const asking: Skill<Wanted> = {
  name: "what its prompt has it ask",
  isAlways: true,
  about: /$^/,
  read(_message, _before, { prompt, before }) {
    const read = agendaIn(prompt);
    if (!read) return undefined;
    const { questions, then } = read;
    const asked = askedIn(before, questions);
    const round = then === "again" ? asked % questions.length : asked;
    return { question: questions[round], isFirst: asked === 0, then };
  },
  say({ question, isFirst, then }, { choices }) {
    if (question === undefined)
      return then === "goodbye"
        ? choices.one(["Thank you, that is all. Goodbye.", "Thank you, now I know what I need. Goodbye."])
        : choices.one(["Thank you, that was all.", "Thank you, I have no more questions."]);
    return isFirst ? question : `${choices.one(["Thank you.", "I see.", "Good."])} ${question}`;
  },
};

function agendaIn(prompt: string): Agenda | undefined {
  const list = agenda.exec(prompt)?.[1];
  if (list === undefined) return undefined;
  const questions = list
    .split(/[;\n]/)
    .map((item) => item.replace(/^\s*[-*]?\s*/, "").replace(/[.\s]+$/, ""))
    .filter((item) => item !== "")
    .map((item) => (item.endsWith("?") ? item : `What can you tell me about ${item}?`));
  if (questions.length === 0) return undefined;
  const then = /\bthen\b[^.]*\bgoodbye\b/i.test(prompt)
    ? "goodbye"
    : /\bthen\b[^.]*\bagain\b/i.test(prompt)
      ? "again"
      : "nothing";
  return { questions, then };
}

/** How many of its questions were asked, as far as the talk shows. */
function askedIn(before: readonly Exchange[], questions: readonly string[]): number {
  return before.filter(({ app }) => questions.some((question) => app.includes(question))).length;
}
