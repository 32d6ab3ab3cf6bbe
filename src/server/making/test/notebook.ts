import type { ServerResponse } from "node:http";
import { piecesOf } from "@/core/conversation/pieces";
import type { NextAttempt, SaidEvent } from "@/core/reply/events";
import { uncalibrated } from "@/core/tokens/calibration";
import { compileProfile } from "@/core/wire/profile";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import type { Resolved } from "../../exchange/credentials";
import { plainWiring } from "../../test/provider";
import { Gate } from "../gate";
import type { BegunDispatch, EndedDispatch, Means, Order, Sink, Speaker } from "../types";

/** A sink that only notes what it gets, as what it is asked for: no store, no hub, no reader. */
export class Notebook implements Sink {
  begun: BegunDispatch[] = [];
  ended: EndedDispatch[] = [];
  said: [take: number, event: string, text: string][] = [];
  announced: NextAttempt[] = [];
  /** How much was said when it was asked whether that is written. */
  settledAt: number[] = [];
  bytesOf = new Map<string, string>();

  begin(dispatch: BegunDispatch) {
    this.begun.push(dispatch);
  }
  bytes(dispatch: string, bytes: Buffer) {
    this.bytesOf.set(dispatch, (this.bytesOf.get(dispatch) ?? "") + bytes);
  }
  leaveOutBytes(dispatch: string) {
    this.bytesOf.delete(dispatch);
  }
  say(take: number, { event, data }: SaidEvent) {
    this.said.push([take, event, "text" in data ? data.text : JSON.stringify(data)]);
  }
  async settled() {
    this.settledAt.push(this.said.length);
  }
  next(attempt: NextAttempt) {
    this.announced.push(attempt);
  }
  end(dispatch: EndedDispatch) {
    this.ended.push(dispatch);
  }
}

const resolved: Resolved = {
  key: "k-1",
  extras: {},
  values: {},
  headers: {},
  way: {},
  secrets: ["k-1"],
};
/** What a making has, where a test needs nothing else. */
export const means = (more: Partial<Means> = {}): Means => ({
  resolve: async () => resolved,
  forget: () => false,
  hasToken: () => false,
  sign: async (_connection, outgoing) => ({ outgoing }),
  gate: new Gate(),
  files: {
    find: () => undefined,
    keep: () => {
      throw new Error("No picture is kept here.");
    },
  },
  ...more,
});

/** A model at an address, which speaks the common shape. */
export function speakerAt(address: string, model = "m", change: Partial<Speaker["connection"]> = {}): Speaker {
  return {
    connection: {
      id: "pro_1",
      ...plainWiring,
      slug: "p",
      address,
      profile: compileProfile(chatCompletions),
      profileText: "{}",
      credential: { kind: "key", secret: { variable: "K" } },
      ...change,
    },
    model: { name: model, window: 8_192, price: { input: 1, output: 2, currency: "EUR" }, calibration: uncalibrated },
  };
}

/** An order for a reply to "Hello". */
export const orderOf = (speaker: Speaker, more: Partial<Order> = {}): Order => ({
  rank: "bench",
  speakers: [speaker],
  gather: () => ({ kind: "ready", messages: [{ role: "visitor", pieces: piecesOf("Hello") }], ledger: null }),
  settings: {},
  streams: true,
  takes: 1,
  begun: 0,
  ...more,
});

/** Events of a stream, each with one choice. */
export function events(...choices: object[]): string {
  return choices.map((each) => `data: ${JSON.stringify({ choices: [each] })}\n\n`).join("");
}
export const delta = (content: string, index = 0) => ({ index, delta: { content }, finish_reason: null });
export const finish = (reason: string, index = 0) => ({ index, delta: {}, finish_reason: reason });

/** Answers with a stream. @param isWhole whether it comes to its end */
export function stream(response: ServerResponse, text: string, isWhole = true) {
  response.writeHead(200, { "content-type": "text/event-stream" });
  response.write(text);
  if (isWhole) response.end("data: [DONE]\n\n");
}
