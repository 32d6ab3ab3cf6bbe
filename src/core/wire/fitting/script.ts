import type { Json } from "../json";
import type { Turn } from "./messages";

/** A conversation as one text, and how it is written. */
export interface ReadScript {
  turns: Turn[];
  template: Json;
}

/** Reads a text in which each turn stands behind its speaker's label, or between marks; undefined where it is none. */
export function scriptIn(text: string): ReadScript | undefined {
  return marked(text) ?? labelled(text);
}

/** Turns between marks: `<|visitor|>` before each, perhaps one that ends it, perhaps a last one for who speaks next. */
function marked(text: string): ReadScript | undefined {
  const parts = text.split(/(<\|[^|\s]+\|>)/);
  if (parts.length < 5) return undefined;
  const opening = parts[0] ?? "";
  const marks = parts.flatMap((part, at) => (at % 2 === 1 ? [{ mark: part, after: parts[at + 1] ?? "" }] : []));
  // a mark behind which nothing is ever said ends a turn
  const ends = new Set(marks.map(({ mark }) => mark));
  for (const { mark, after } of marks.slice(0, -1)) if (after.trim() !== "") ends.delete(mark);
  const last = marks.at(-1);
  const isCue =
    last !== undefined &&
    last.after.trim() === "" &&
    marks.some(({ mark, after }) => mark === last.mark && after.trim() !== "");
  if (last && isCue) ends.delete(last.mark);
  const spoken = marks.filter(
    ({ mark, after }, at) => !ends.has(mark) && !(isCue && at === marks.length - 1) && after.trim() !== "",
  );
  const sample = spoken[0];
  if (spoken.length < 2 || !sample) return undefined;
  const endMark = marks.find(({ mark }) => ends.has(mark));
  const before = /^\s*/.exec(sample.after)?.[0] ?? "";
  const behind = endMark ? "" : (/\s*$/.exec(sample.after)?.[0] ?? "");
  const between = endMark ? `${escaped(endMark.mark)}${endMark.after}` : behind;
  const cue = isCue && last ? `${escaped(last.mark)}${last.after}` : undefined;
  const turns = spoken.map(({ mark, after }): Turn => ({ role: mark.slice(2, -2), text: after.trim() }));
  return {
    turns,
    template: {
      "<join>": [
        ...(opening === "" ? [] : [escaped(opening)]),
        { "<each>": "messages", as: `<<|<role>|>${before}<text>${between}` },
        ...(cue === undefined ? [] : [cue]),
      ],
    },
  };
}

const label = /^((?:#{1,6} |\*\*)?\[?)(\p{L}[\p{L} ]{0,20})(\]|:(?:\*\*)?)( ?)/u;

/** Lines that begin with who speaks: `Guest: …`, `[guest] …`, `## Guest: …`. */
function labelled(text: string): ReadScript | undefined {
  const lines = text.split("\n");
  const [, open = "", , close = ":", space = ""] = label.exec(lines[0] ?? "") ?? [];
  const turns: Turn[] = [];
  for (const line of lines) {
    const match = label.exec(line);
    const before = turns.at(-1);
    if (match && match[1] === open && match[3] === close)
      turns.push({ role: match[2] as string, text: line.slice(match[0].length) });
    else if (before) before.text += `\n${line}`;
    else return undefined;
  }
  const cue = turns.length > 2 && turns.at(-1)?.text.trim() === "" ? turns.pop() : undefined;
  if (turns.length < 2) return undefined;
  const parts: Json[] = [{ "<each>": "messages", as: `${escaped(open)}<role>${close}${space}<text>` }];
  if (cue) parts.push(escaped(lines.at(-1) ?? ""));
  return { turns, template: { "<join>": parts, with: "\n" } };
}

/** A text in which nothing reads like a placeholder of a template. */
function escaped(text: string): string {
  return text.replaceAll("<", "<<");
}
