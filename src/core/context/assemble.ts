import { type Message, textOf } from "../conversation/message";
import { type Problem, problem } from "../problem/problem";
import type { Content } from "../revision/revision";
import { fillPrompt } from "../revision/variables";
import { type Calibration, calibrated } from "../tokens/calibration";
import { estimateTokens, tokensPerMessage } from "../tokens/estimate";
import type { WireMessage } from "../wire/encode";
import { reach } from "./reach";
import { slipsOf } from "./slips";

/** One line of the ledger: a part of the context, its estimated tokens, in or out, and why. */
export interface LedgerEntry {
  part: "prompt" | "message";
  /** The message's id, where the part is one. */
  message?: string;
  tokens: number;
  carried: boolean;
  why: string;
}

/** The itemised reach of one dispatch. */
export interface Ledger {
  entries: LedgerEntry[];
  /** Estimated tokens of all that is carried, put right for the model. */
  tokens: number;
  /** The same before it was put right; what calibration learns from. */
  rawTokens: number;
  /** The model's context window, in tokens. */
  window: number;
}

/** What a context is assembled from. */
export interface Gathered {
  content: Content;
  /** The line to answer: it ends with the new message, or with the reply that is gone on from. */
  line: Message[];
  /** Values of the prompt's variables, from the call. */
  variables: Record<string, string>;
  /** The name of the provider that is to answer; what another one gave along is not for it. */
  provider?: string;
  /** The model's context window, in tokens. */
  window: number;
  calibration: Calibration;
  /** Epoch milliseconds. */
  now: number;
}

export type Assembled =
  | { kind: "ready"; messages: WireMessage[]; ledger: Ledger }
  | { kind: "refused"; problem: Problem };

/** The messages that a dispatch carries, with the ledger that accounts for them; or why there can be no dispatch. */
export function assemble({ content, line, variables, provider, window, calibration, now }: Gathered): Assembled {
  const prompt = fillPrompt(content.prompt, { ...content.variables, ...variables }, now);
  if (prompt.missing.length > 0) {
    const names = prompt.missing.map((name) => `{{${name}}}`).join(", ");
    return refused(
      "bad-request",
      `The system prompt holds ${names}, and nothing gives a value.`,
      "Give it in `variables`, or in the Prompt station.",
    );
  }
  const reached = reach(line, content.memory);
  const messages: WireMessage[] = reached
    .filter(({ carried }) => carried)
    .map(({ message }) => ({ role: message.role, text: textOf(message), ...carryOf(message, provider) }));
  if (prompt.text.trim() !== "") messages.unshift({ role: "system", text: prompt.text });
  const [slip] = slipsOf(messages);
  if (slip) return refused("bad-request", `Message ${slip.at} of the context: ${slip.reason}.`);

  const entries: LedgerEntry[] = [
    {
      part: "prompt",
      tokens: promptTokens(prompt.text),
      carried: prompt.text.trim() !== "",
      why: "the system prompt goes first",
    },
    ...reached.map(({ message, carried, why }) => ({
      part: "message" as const,
      message: message.id,
      tokens: message.tokens + tokensPerMessage,
      carried,
      why,
    })),
  ];
  const rawTokens = entries.reduce((sum, entry) => sum + (entry.carried ? entry.tokens : 0), 0);
  const tokens = calibrated(rawTokens, calibration);
  const outgrown = outgrows(tokens, content.settings.maxOutput, window);
  if (outgrown) return { kind: "refused", problem: outgrown };
  return { kind: "ready", messages, ledger: { entries, tokens, rawTokens, window } };
}

/** The estimated tokens that a system prompt takes, its borders included; 0 for an empty one. */
export function promptTokens(prompt: string): number {
  return prompt.trim() === "" ? 0 : estimateTokens(prompt) + tokensPerMessage;
}

/** The problem of a context that does not fit its window together with the reply, if it does not. */
export function outgrows(tokens: number, maxOutput: number | undefined, window: number): Problem | undefined {
  const room = window - (maxOutput ?? 1);
  if (tokens <= room) return undefined;
  const held = maxOutput === undefined ? "" : `, of which ${maxOutput} are kept for the reply`;
  return problem(
    "too-long",
    `About ${tokens} tokens would be sent, and the context window has ${window}${held}: ${tokens - room} too many.`,
  );
}

/** What an API gave along with a reply, for a call of the same provider. */
function carryOf(message: Message, provider: string | undefined): { carry?: unknown } {
  if (message.role !== "app" || message.facts.carry === undefined || message.facts.provider !== provider) return {};
  return { carry: message.facts.carry };
}

function refused(kind: Problem["kind"], detail: string, advice?: string): Assembled {
  return { kind: "refused", problem: problem(kind, detail, advice === undefined ? {} : { advice }) };
}
