import { type Chunk, type Completion, commonError } from "@/contract/common";
import { type Piece, type ToolPiece, toolsIn, withPiece } from "@/core/conversation/pieces";
import type { EndReason } from "@/core/reply/events";
import type { ToldUsage } from "@/core/reply/told";
import type { StoredEvent } from "../live/event-store";
import { broughtIn, commonCalls, fragmentsOf } from "./common-calls";
import type { Format } from "./streams";

/** What stands above every chunk of one answer. */
export type About = Pick<Chunk, "id" | "created" | "model">;

/** This shape's words for how a reply ended. */
export const endings: Record<EndReason, Completion["choices"][0]["finish_reason"]> = {
  complete: "stop",
  length: "length",
  "stop-word": "stop",
  tools: "tool_calls",
  refused: "content_filter",
  stopped: "stop",
};

/** A reply as one of the choices of an answer, from where on it is read. */
export interface Choice {
  reply: string;
  index: number;
  /** The round whose calls were answered already; 0 for none. */
  round: number;
}

/** The events of one of several replies as chunks of this shape, without the last word: up to its end, or to calls of the caller's. */
export function chunksOf(
  about: About,
  { reply, index, round }: Choice,
  withUsage: boolean,
  count: (usage: ToldUsage) => void,
): Format {
  const chunk = (choices: Chunk["choices"]) =>
    line(JSON.stringify({ ...about, object: "chat.completion.chunk", choices, ...(withUsage ? { usage: null } : {}) }));
  const turn = new CallersTurn(round);
  let isBegun = false;
  const delta = (delta: Chunk["choices"][0]["delta"], finish_reason: Chunk["choices"][0]["finish_reason"] = null) => {
    const first = isBegun ? "" : chunk([{ index, delta: { role: "assistant", content: "" }, finish_reason: null }]);
    isBegun = true;
    return first + chunk([{ index, delta, finish_reason }]);
  };
  return {
    type: "text/event-stream; charset=utf-8",
    event({ event, data }: StoredEvent) {
      if (turn.has) return "";
      switch (event) {
        case "text":
          return delta({ content: JSON.parse(data).text });
        case "tool": {
          const calls = turn.after(JSON.parse(data));
          if (calls.length === 0) return "";
          const fragments = fragmentsOf(commonCalls(reply, calls)).map((each) => delta({ tool_calls: [each] }));
          return fragments.join("") + delta({}, "tool_calls");
        }
        case "usage":
          count(JSON.parse(data));
          return "";
        case "end":
          return delta({}, endings[(JSON.parse(data) as { reason: EndReason }).reason]);
        case "problem":
          return line(JSON.stringify({ error: commonError(JSON.parse(data), undefined) }));
        default:
          return "";
      }
    },
    pause: ": still here\n\n",
    isOver: () => turn.has,
  };
}

/** Follows the calls of a reply, and knows when it is its caller's turn. */
class CallersTurn {
  /** Whether it is. */
  has = false;
  private pieces: Piece[] = [];

  constructor(private readonly answeredRound: number) {}

  /** The calls that the caller is to answer, once nothing else is under way. */
  after(data: Omit<ToolPiece, "kind">): ToolPiece[] {
    this.pieces = withPiece(this.pieces, { kind: "tool", ...data });
    if (data.round <= this.answeredRound) return [];
    const open = toolsIn({ pieces: this.pieces }).filter(({ outcome }) => outcome === "waiting");
    this.has = open.length > 0 && open.every(({ waitsFor }) => waitsFor === "caller");
    return this.has ? broughtIn(toolsIn({ pieces: this.pieces }), data.round) : [];
  }
}

export function usageChunk(about: About, usage: CommonUsage): string {
  return line(JSON.stringify({ ...about, object: "chat.completion.chunk", choices: [], usage }));
}

export function line(data: string): string {
  return `data: ${data}\n\n`;
}

type CommonUsage = NonNullable<Completion["usage"]>;

/** Tokens of all replies of a call: what was sent is sent once for each. */
export class Counted {
  private input = 0;
  private output = 0;
  /** Whether there is anything to tell: of a reply that waits for its caller, it is told with the end. */
  hasAny = false;

  add({ input = 0, output = 0 }: ToldUsage): void {
    this.input += input;
    this.output += output;
    this.hasAny = true;
  }

  get sum(): CommonUsage {
    const { input, output } = this;
    return { prompt_tokens: input, completion_tokens: output, total_tokens: input + output };
  }
}
