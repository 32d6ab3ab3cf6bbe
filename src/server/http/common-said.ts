import type { ChatCall, CommonMessage } from "@/contract/common";
import type { HeldMessage } from "@/contract/replies";
import { argumentsIn } from "@/core/tools/calls";
import { refuse } from "../ground/refusal";

/** What a call in the common shape says, in our words. */
export interface CommonSaid {
  messages: HeldMessage[];
  system: string | undefined;
  /** The answers that it ends with, by the ids of their calls: a reply goes on with them. */
  answers: { id: string; text: string }[];
}

type Turn = { role: "visitor"; texts: string[] } | { role: "app"; texts: string[]; pieces: HeldPiece[]; round: number };
type HeldPiece = NonNullable<HeldMessage["pieces"]>[number];
type HeldCall = Extract<HeldPiece, { kind: "tool" }>;

/**
 * What was said, in our words. Neighbours of one role become one message, with a blank line between; calls of tools and
 * their answers are pieces of what the app said. @throws {Refusal} `bad-request`
 */
export function saidIn({ messages }: ChatCall): CommonSaid {
  const turns: Turn[] = [];
  const system: string[] = [];
  const open = new Map<string, HeldCall>();
  let answers: CommonSaid["answers"] = [];
  for (const [at, message] of messages.entries()) {
    const place = `messages[${at}]`;
    const text = textIn(message);
    const { role } = message;
    if (role === "tool") {
      answers.push(answered(open, message, text, place));
      continue;
    }
    if (open.size > 0)
      wrong(
        `${place} comes before the call ${[...open.keys()][0]} was answered.`,
        "Send its answer first.",
        "messages",
      );
    answers = [];
    if (role === "system" || role === "developer") system.push(text);
    else if (role === "user") lastOf(turns, "visitor").texts.push(text);
    else if (role === "assistant") addSaid(lastOf(turns, "app"), message, text, open);
    else
      wrong(
        `\`${place}.role\` is ${role}, and should be system, user, assistant or tool.`,
        "Send what the user and the assistant said.",
        `${place}.role`,
      );
  }
  const held = turns.map(heldOf);
  if (held.some(({ text }) => text?.trim() === ""))
    wrong("A message is empty.", "Leave it out, or send some text.", "messages");
  if (held[0]?.role !== "visitor" || (held.at(-1)?.role !== "visitor" && answers.length === 0))
    wrong("The first and the last message are not both the user's.", "Send them in turn.", "messages");
  return { messages: held, system: system.length === 0 ? undefined : system.join("\n\n"), answers };
}

function textIn({ content }: CommonMessage): string {
  if (content === null || content === undefined) return "";
  return typeof content === "string" ? content : content.map((part) => part.text).join("");
}

/** The turn that a message belongs to: the last one, where that is of the same role. */
function lastOf<R extends Turn["role"]>(turns: Turn[], role: R): Extract<Turn, { role: R }> {
  const last = turns.at(-1);
  if (last?.role === role) return last as Extract<Turn, { role: R }>;
  const begun: Turn =
    role === "visitor" ? { role: "visitor", texts: [] } : { role: "app", texts: [], pieces: [], round: 0 };
  turns.push(begun);
  return begun as Extract<Turn, { role: R }>;
}

/** Adds what the app said: its text, and the calls that it asked for. */
function addSaid(
  turn: Extract<Turn, { role: "app" }>,
  { tool_calls: calls }: CommonMessage,
  text: string,
  open: Map<string, HeldCall>,
): void {
  const asked = calls ?? [];
  if (text !== "" || asked.length === 0) {
    const isFurther = turn.texts.length > 0;
    turn.texts.push(text);
    turn.pieces.push({ kind: "text", text: isFurther ? `\n\n${text}` : text });
  }
  if (asked.length === 0) return;
  turn.round += 1;
  for (const { id, function: of } of asked) {
    const piece: HeldCall = {
      kind: "tool",
      round: turn.round,
      call: id,
      name: of.name,
      arguments: argumentsIn(of.arguments),
      outcome: "answered",
      result: "",
    };
    open.set(id, piece);
    turn.pieces.push(piece);
  }
}

/** Notes the answer of a call. @throws {Refusal} where there is no such call */
function answered(
  open: Map<string, HeldCall>,
  { tool_call_id: id }: CommonMessage,
  text: string,
  place: string,
): { id: string; text: string } {
  const call = id ? open.get(id) : undefined;
  if (!id || !call)
    return wrong(
      `\`${place}.tool_call_id\` names no call of the assistant message before it that has no answer yet.`,
      "Send each call's answer once, by the id of the call.",
      `${place}.tool_call_id`,
    );
  call.result = text;
  open.delete(id);
  return { id, text };
}

/** A turn as one message. */
function heldOf(turn: Turn): HeldMessage {
  const text = turn.texts.join("\n\n");
  if (turn.role === "visitor" || turn.round === 0) return { role: turn.role, text };
  return { role: "app", pieces: turn.pieces };
}

function wrong(detail: string, advice: string, param: string): never {
  return refuse("bad-request", detail, { advice, param });
}
