import { piecesOf, textOf } from "@/core/conversation/pieces";
import { type Problem, wordFor } from "@/core/problem/problem";
import type { ProbeReport, ProbeStep, ProviderPart } from "@/core/provider/probe";
import type { TokenCounts } from "@/core/reply/events";
import type { Settings } from "@/core/revision/content";
import type { WireMessage } from "@/core/wire/message";
import type { HasCredentials } from "../exchange/credentials";
import { isLocal } from "../exchange/loading";
import { isRefusal } from "../ground/refusal";
import type { StoredProvider } from "../providers/provider-store";
import { standingOf } from "./standing";
import { type TryNeeds, tryOut } from "./try";

/** What of the process is used here. */
export type ProbeNeeds = TryNeeds & HasCredentials;

/** What came of one call of a probe. */
interface Read {
  text: string;
  counts: Partial<TokenCounts>;
  arrivals: number;
  problem?: Problem;
  end?: string;
}

/** What one call of a probe asks. */
interface Asked {
  model?: string;
  messages: WireMessage[];
  settings?: Settings;
  streams?: boolean;
}

type Outcome = Omit<ProbeStep, "step" | "at" | "ms">;

const wordToSay = "cormorant";

/** Tokens that the window is tried with, at most and at least, and what stands between its front and its end. */
const [largestTried, smallestTried] = [16_000, 60];
const filler = "The boat leaves Mill Quay at the hour and comes back at the half. ";
/** Characters that are taken to make a token: a little too many, so that what is sent fits. */
const charactersAToken = 2.8;

/**
 * Calls a provider in steps, from whether its address answers to whether errors can be read; each
 * step is told as it is done. The report of a probe that was not stopped is kept.
 */
export async function* probe(
  boot: ProbeNeeds,
  provider: StoredProvider,
  model: string,
  signal: AbortSignal,
): AsyncGenerator<ProbeStep> {
  const steps: ProbeStep[] = [];
  const run = new Probe(boot, provider, model, signal);
  for (const { step, at, work } of run.steps()) {
    const started = performance.now();
    const outcome = await work().catch(failedOutcome);
    if (signal.aborted) return;
    const done = { step, ...outcome, at, ms: Math.round(performance.now() - started) };
    steps.push(done);
    yield done;
  }
  const report: ProbeReport = { at: Date.now(), model, steps };
  boot.providers.setProbe(provider.id, report);
}

function failedOutcome(error: unknown): Outcome {
  if (isRefusal(error)) return bad(error.problem);
  throw error;
}

class Probe {
  private standing: Awaited<ReturnType<typeof standingOf>> | undefined;
  private canTalk = false;
  private remembers = false;
  private whole: Read | undefined;
  private streamed: Read | undefined;

  constructor(
    private readonly boot: ProbeNeeds,
    private readonly provider: StoredProvider,
    private readonly model: string,
    private readonly signal: AbortSignal,
  ) {}

  steps(): { step: string; at: ProviderPart; work: () => Promise<Outcome> }[] {
    return [
      { step: "answers", at: "address", work: () => this.answers() },
      { step: "key accepted", at: "key", work: async () => this.keyAccepted() },
      { step: "lists models", at: "profile", work: async () => this.listsModels() },
      { step: "switched on", at: "models", work: async () => this.switchedOn() },
      { step: "whole reply", at: "call", work: () => this.wholeReply() },
      { step: "streams", at: "call", work: () => this.streams() },
      { step: "heeds prompt", at: "profile", work: () => this.heedsPrompt() },
      { step: "memory", at: "profile", work: () => this.memory() },
      { step: "usage", at: "profile", work: async () => this.usage() },
      { step: "cut seen", at: "profile", work: () => this.cutSeen() },
      { step: "window used", at: "models", work: () => this.windowUsed() },
      { step: "wrong key", at: "profile", work: () => this.wrongKey() },
      { step: "wrong model", at: "profile", work: () => this.wrongModel() },
    ];
  }

  private async answers(): Promise<Outcome> {
    this.standing = await standingOf(this.boot, this.provider);
    const { answeredMs, problem } = this.standing;
    if (answeredMs === null && problem && problem.kind !== "misconfigured" && problem.kind !== "unauthorised")
      return bad(problem);
    return good(answeredMs === null ? "yes" : `${answeredMs} ms`);
  }

  private keyAccepted(): Outcome {
    const failure = this.standing?.problem;
    if (this.provider.credential.kind === "none") return { outcome: "left out", found: "no key needed" };
    if (failure && ["unauthorised", "not-allowed", "misconfigured"].includes(failure.kind)) return bad(failure);
    if (!this.provider.profile.models) return { outcome: "left out", found: "told by the replies" };
    return failure?.kind === "unreachable" ? leftOut() : good("accepted");
  }

  private listsModels(): Outcome {
    const { models } = this.provider.profile.source;
    if (!models) return { outcome: "left out", found: "the profile names no list" };
    const listed = this.standing?.models ?? [];
    if (listed.length === 0) return this.standing?.problem ? bad(this.standing.problem) : leftOut();
    return good(`${listed.length} ${listed.length === 1 ? "model" : "models"}`);
  }

  private switchedOn(): Outcome {
    const listed = this.standing?.models ?? [];
    const found = listed.find(({ name }) => name === this.model);
    if (listed.length === 0) return leftOut();
    if (!found)
      return {
        outcome: "bad",
        found: `${this.model} is not listed`,
        advice: `There are ${listed
          .slice(0, 8)
          .map(({ name }) => name)
          .join(", ")}.`,
      };
    if (found.isOn === false)
      return {
        outcome: "bad",
        found: "not switched on",
        advice: `Switch ${this.model} on in the list of models, or at the provider.`,
      };
    return good(found.isOn === null ? "listed" : "on");
  }

  private async wholeReply(): Promise<Outcome> {
    if (this.provider.profile.stream && !this.provider.profile.whole)
      return { outcome: "left out", found: "the profile only streams" };
    this.whole = await this.ask({ streams: false, messages: [visitor("Say hello in one short sentence.")] });
    this.canTalk ||= this.whole.text !== "";
    return this.whole.problem ? bad(this.whole.problem) : good(`${this.whole.text.length} characters`);
  }

  private async streams(): Promise<Outcome> {
    if (!this.provider.profile.stream) return { outcome: "left out", found: "it does not stream" };
    this.streamed = await this.ask({
      messages: [visitor("Name the days of the week, one after the other.")],
    });
    this.canTalk ||= this.streamed.text !== "";
    if (this.streamed.problem) return bad(this.streamed.problem);
    const { arrivals, text } = this.streamed;
    if (arrivals > 1 || text.length < 20) return good(`${arrivals} ${arrivals === 1 ? "arrival" : "arrivals"}`);
    return {
      outcome: "bad",
      found: "one arrival",
      advice: "Something between here and the model holds the stream back: look at proxies that buffer or compress.",
    };
  }

  private async heedsPrompt(): Promise<Outcome> {
    if (!this.canTalk) return leftOut();
    const said = await this.ask({
      messages: [
        { role: "system", pieces: piecesOf(`End every reply with "${wordToSay}".`) },
        visitor("When does a day begin?"),
      ],
    });
    if (said.problem) return bad(said.problem);
    if (said.text.toLowerCase().includes(wordToSay)) return good("heeded");
    return {
      outcome: "bad",
      found: "not heeded",
      advice: "Look at where the profile puts <system>, and at roles.prompt; small models can fail here by themselves.",
    };
  }

  private async memory(): Promise<Outcome> {
    if (!this.canTalk) return leftOut();
    const said = await this.ask({
      messages: [
        visitor("My name is Odile."),
        { role: "app", pieces: piecesOf("Noted: your name is Odile.") },
        visitor("What is my name?"),
      ],
    });
    if (said.problem) return bad(said.problem);
    this.remembers = /odile/i.test(said.text);
    if (this.remembers) return good("carried");
    return {
      outcome: "bad",
      found: "not carried",
      advice: "Look at the messages in the profile's body, and at the roles.",
    };
  }

  private usage(): Outcome {
    if (!this.canTalk) return leftOut();
    const counts = [this.whole, this.streamed].filter((read) => read && !read.problem).map((read) => read?.counts);
    const has = (name: "input" | "output") => counts.length > 0 && counts.every((each) => each?.[name] !== undefined);
    if (has("input") && has("output")) return good("in and out");
    const found = has("input") ? "only in" : has("output") ? "only out" : "not reported";
    return {
      outcome: "bad",
      found,
      advice: "What is missing is estimated. If the answer does hold counts, say where in the rules of the profile.",
    };
  }

  private async cutSeen(): Promise<Outcome> {
    if (!this.canTalk) return leftOut();
    const said = await this.ask({
      messages: [visitor("Write a long story of a crossing.")],
      settings: { maxOutput: 12 },
    });
    if (said.end === "length") return good("says so");
    if (said.problem?.kind === "empty") return good("all of it went into the thought");
    if (said.problem) return bad(said.problem);
    if (said.text.length > 400)
      return {
        outcome: "bad",
        found: "not cut",
        advice: "The output limit does not arrive: look at <maxOutput> in the profile's body.",
      };
    return {
      outcome: "bad",
      found: "cut unseen",
      advice: `At the limit the reply ended as "${said.end}": map its finish word to length in finishWords.`,
    };
  }

  /**
   * Whether all of the window is really used: some servers cut the front of what they are sent in silence. A name at the front
   * of a long message is asked for, of less and less, until it is known. Tried only where it costs nothing.
   */
  private async windowUsed(): Promise<Outcome> {
    if (!this.canTalk) return leftOut();
    const model = this.boot.providers.model(this.provider.id, this.model);
    const isFree = model && model.price.input === 0 && (!model.price.isUnset || isLocal(this.provider.address));
    if (!this.remembers) return leftOut();
    if (!isFree) return { outcome: "left out", found: "tried only where it is free" };
    const most = Math.min(model.window, largestTried);
    for (let tokens = Math.floor(most * 0.75); tokens >= smallestTried; tokens = Math.floor(tokens / 2)) {
      const said = await this.ask({
        messages: [
          visitor("My name is Odile."),
          { role: "app", pieces: piecesOf("Noted: your name is Odile.") },
          visitor(`${filler.repeat(Math.ceil((tokens * charactersAToken) / filler.length))}What is my name?`),
        ],
        settings: { maxOutput: 40 },
      });
      if (said.problem && said.problem.kind !== "too-long") return bad(said.problem);
      const sent = said.counts.input ?? tokens;
      if (!said.problem && /odile/i.test(said.text)) {
        if (tokens >= Math.floor(most * 0.75)) return good(`${sent.toLocaleString("en")} tokens at once`);
        return {
          outcome: "bad",
          found: `about ${sent.toLocaleString("en")} tokens`,
          advice: `Of more than that it does not know the beginning: it cuts the front and does not say so. Set the window of ${this.model} to ${sent.toLocaleString("en")}, so that the bench leaves out what would be cut, and says it.`,
        };
      }
    }
    return {
      outcome: "bad",
      found: "not told",
      advice: "It never knew what stood at the front, however little was sent: see whether it remembers at all.",
    };
  }

  private async wrongKey(): Promise<Outcome> {
    if (this.provider.credential.kind === "none") return { outcome: "left out", found: "no key needed" };
    if (!this.canTalk) return leftOut();
    const { problem } = await this.ask({ messages: [visitor("Hello")] }, "a-wrong-key-on-purpose");
    if (problem?.kind === "unauthorised" || problem?.kind === "not-allowed") return good("readable");
    return {
      outcome: "bad",
      found: problem ? `taken as: ${wordFor(problem.kind)}` : "accepted",
      advice: problem
        ? "Map the status or the code of this error to unauthorised in answer.problem."
        : "The provider takes any key: see where the profile puts <key>.",
    };
  }

  private async wrongModel(): Promise<Outcome> {
    if (!this.canTalk) return leftOut();
    const { problem } = await this.ask({ model: "no-such-model-on-purpose", messages: [visitor("Hello")] });
    if (problem?.kind === "unknown-model") return good("readable");
    return {
      outcome: "bad",
      found: problem ? `taken as: ${wordFor(problem.kind)}` : "accepted",
      advice: problem
        ? "Map the status or the code of this error to unknown-model in answer.problem."
        : "The provider answers whatever the model is called: see where the profile puts <model>.",
    };
  }

  private async ask(
    { model = this.model, messages, settings = {}, streams = true }: Asked,
    key?: string,
  ): Promise<Read> {
    const order = { purpose: "probe" as const, owner: this.provider.id, model, messages, streams, key };
    const asked = { ...order, settings: { temperature: 0, ...settings } };
    const { made, answer } = await tryOut(this.boot, this.provider, asked, this.signal);
    const [take] = made.takes;
    const { last } = take;
    return {
      text: textOf(take),
      counts: made.counts ?? {},
      arrivals: answer.arrivals.length,
      problem: last.event === "problem" ? last.data : undefined,
      end: last.event === "end" ? last.data.reason : undefined,
    };
  }
}

function visitor(text: string): WireMessage {
  return { role: "visitor", pieces: piecesOf(text) };
}

function good(found: string): Outcome {
  return { outcome: "good", found };
}

function leftOut(): Outcome {
  return { outcome: "left out", found: "not tried" };
}

function bad({ kind, detail, advice }: Problem): Outcome {
  return {
    outcome: "bad",
    found: wordFor(kind),
    advice: `${detail} ${advice}`,
  };
}
