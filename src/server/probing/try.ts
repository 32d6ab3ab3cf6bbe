import type { LastAnswer, PastedCall, RawAnswer, Tried } from "@/contract/tries";
import { piecesOf } from "@/core/conversation/pieces";
import { isAddress } from "@/core/provider/address";
import { usualLimits } from "@/core/provider/limits";
import { unknownModel } from "@/core/provider/model";
import type { LastEvent } from "@/core/reply/events";
import type { Settings } from "@/core/revision/content";
import { uncalibrated } from "@/core/tokens/calibration";
import type { WireMessage } from "@/core/wire/message";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasDatabase } from "../database/database";
import type { HasPacking } from "../database/slices";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { keepingSink } from "../dispatches/keeping-sink";
import { rawAnswer } from "../exchange/raw-answer";
import { Refusal, refuse } from "../ground/refusal";
import { make } from "../making/make";
import { plainOrder } from "../making/order";
import type { BegunDispatch, EndedDispatch, HasMeans, KeptRequest, Made, Order, Purpose, Sink } from "../making/types";
import type { HasProviders, StoredProvider } from "../providers/provider-store";
import { keyFrom } from "../security/keys";
import type { HasSpend } from "../spend/spend-store";

/** What of the process is used here. */
export type TryNeeds = HasDatabase & HasConversations & HasDispatches & HasProviders & HasSpend & HasMeans & HasPacking;

/** What is asked of a model apart from any conversation. */
export interface TryOrder {
  purpose: Exclude<Purpose, "reply" | "summary" | "comparison" | "check" | "question" | "digest">;
  /** What it is for. */
  owner?: string;
  model: string;
  messages: WireMessage[];
  settings?: Settings;
  streams: boolean;
  /** Another key than the provider's own. */
  key?: string;
  request?: Order["request"];
}

/** What came of it, and how it looked on the wire. */
export interface TriedOut {
  request: KeptRequest;
  made: Made;
  answer: RawAnswer;
}

/** Bytes of an answer that are held as a whole. */
const largestAnswer = 4 * 1024 * 1024;

const free = { input: 0, output: 0, currency: "EUR" };
const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

/** Has a provider called apart from any conversation, once, on the way that replies are made on. */
export async function tryOut(
  boot: TryNeeds,
  provider: StoredProvider,
  order: TryOrder,
  signal?: AbortSignal,
): Promise<TriedOut> {
  const { purpose, owner = null, model: name, messages, settings = {}, streams, key, request } = order;
  const model = boot.providers.model(provider.id, name) ?? {
    ...unknownModel(name),
    price: free,
    calibration: uncalibrated,
  };
  const seen = new Seen();
  const { sink } = keepingSink(
    boot,
    {
      purpose,
      owner,
      conversation: null,
      spentOn: { app: null, revision: null, content: null, origin: "bench" },
    },
    (work) => boot.database.transaction(work).immediate()?.(),
    seen,
  );
  const { means } = boot;
  const resolve: typeof means.resolve = async (connection) => {
    const resolved = await means.resolve(connection);
    return key === undefined || resolved.problem ? resolved : { ...resolved, key };
  };
  const making = make(
    plainOrder({
      rank: "bench",
      speaker: { connection: { ...provider, retries: 0 }, model },
      messages,
      settings,
      streams,
      request,
    }),
    sink,
    { ...means, resolve },
  );
  const stop = () => void making.stop(stopped);
  signal?.addEventListener("abort", stop);
  if (signal?.aborted) stop();
  try {
    return seen.triedOut(await making.made);
  } finally {
    signal?.removeEventListener("abort", stop);
  }
}

/** Holds what came in a dispatch. */
class Seen implements Pick<Sink, "begin" | "bytes" | "leaveOutBytes" | "end"> {
  private begun: BegunDispatch | undefined;
  private ended: EndedDispatch | undefined;
  private readonly parts: Buffer[] = [];
  private readonly arrivals: [at: number, length: number][] = [];
  private size = 0;

  begin(dispatch: BegunDispatch): void {
    this.begun = dispatch;
  }

  bytes(_dispatch: string, bytes: Buffer, at: number): void {
    this.arrivals.push([at, bytes.length]);
    if (this.size < largestAnswer) this.parts.push(bytes.subarray(0, largestAnswer - this.size));
    this.size += bytes.length;
  }

  leaveOutBytes(): void {
    this.parts.length = 0;
  }

  end(dispatch: EndedDispatch): void {
    this.ended = dispatch;
  }

  triedOut(made: Made): TriedOut {
    const { request = { method: "", url: "", headers: {}, body: "" }, startedAt = 0 } = this.begun ?? {};
    const { status = null, headers = {}, endedAt = startedAt } = this.ended ?? {};
    const [{ last }] = made.takes;
    const answer: RawAnswer = {
      status,
      contentType: headers["content-type"] ?? "",
      headers,
      text: Buffer.concat(this.parts).toString("utf8"),
      arrivals: this.arrivals,
      ms: endedAt - startedAt,
      problem: last.event === "problem" && (status === null || status < 300) ? last.data : null,
    };
    return { request, made, answer };
  }
}

/** Asks a provider something short, apart from any conversation. @throws {Refusal} where its credentials can't be had */
export async function tryCall(
  boot: TryNeeds,
  provider: StoredProvider,
  { model, message, stream }: { model: string; message: string; stream: boolean },
  signal?: AbortSignal,
): Promise<Tried> {
  const messages: WireMessage[] = [{ role: "visitor", pieces: piecesOf(message) }];
  const settings = { maxOutput: 300 };
  const { request, answer } = await tryOut(
    boot,
    provider,
    { purpose: "try", model, messages, settings, streams: stream },
    signal,
  );
  const { problem, status } = answer;
  if (status === null && problem && (problem.kind === "misconfigured" || problem.kind === "unauthorised"))
    throw new Refusal(problem);
  return { request, answer };
}

/** Makes a pasted request as it stands, with `$NAME` read from the environment. */
export async function pastedCall(
  { method, url, headers, user, body, secrets: typed = [] }: PastedCall,
  signal?: AbortSignal,
): Promise<RawAnswer> {
  const secrets = [...typed];
  const filled = (text: string) =>
    text.replace(/\$\{?([A-Za-z_]\w*)\}?/g, (written, name: string) => {
      const value = keyFrom(name);
      if (value === undefined) return written;
      secrets.push(value);
      return value;
    });
  const all = Object.fromEntries(headers.map(([name, value]) => [name.toLowerCase(), filled(value)]));
  if (user !== undefined) {
    const pair = Buffer.from(filled(user)).toString("base64");
    secrets.push(pair);
    all.authorization ??= `Basic ${pair}`;
  }
  const target = filled(url);
  if (!isAddress(target))
    refuse("bad-request", `${url} is no address: the variable is not set, or holds none.`, {
      advice: "Set it where the server is started, or write the address into the command.",
    });
  return rawAnswer(
    { method, url: target, headers: all, ...(body === "" ? {} : { body }) },
    usualLimits,
    secrets,
    {},
    signal,
  );
}

/** The last whole answer that a provider gave to a reply, as text. */
export function lastAnswer({ dispatches }: HasDispatches, provider: StoredProvider): LastAnswer | null {
  const last = dispatches.lastOf(provider.id);
  if (!last?.bytes || last.endedAt === null || last.status === null) return null;
  return {
    at: last.startedAt,
    model: last.model,
    contentType: last.headers["content-type"] ?? "",
    status: last.status,
    text: last.bytes.toString("utf8"),
    arrivals: last.arrivals.length,
    ms: last.arrivals.at(-1)?.[0] ?? last.endedAt - last.startedAt,
  };
}
