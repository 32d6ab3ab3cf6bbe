import { type Problem, problem } from "../problem/problem";
import type { EndReason, ReadEvent, TokenCounts } from "../reply/events";
import { countIn } from "../tokens/count";
import { problemIn } from "./failure";
import type { Frame } from "./framing/framing";
import { excerpt, isDeeperThan, parseJson, wordOf, written } from "./json";
import type { Path } from "./path";
import type { CompiledCondition, CompiledProfile, CompiledRule } from "./profile";

/** Takes of one call that are read; nobody asks for more, so a provider that numbers further has made them up. */
const mostTakes = 16;

/** Numbers of events that are kept, to know one that comes twice. */
const mostNumbers = 4_096;

/** The steps from the root of a document to a value in it. */
export type Place = readonly (string | number)[];

/** What was taken from a place of a document. */
export type Taken =
  | { what: "text" | "thought"; isSoFar: boolean }
  | { what: "tool" | "arguments" | "take" | "input" | "output" | "thought tokens" | "carry" | "error" | "end" }
  | { what: "finish"; reason: EndReason | undefined };

/** Is told what is taken and where; no place is all of an event. */
export type Watch = (taken: Taken, place: Place | undefined) => void;

/** Reads the documents of one answer by the rules of its profile, and knows how it ended. */
export class Reading {
  /** The documents that rules were put to. */
  count = 0;
  ended = false;
  private counts: Partial<TokenCounts> = {};
  /** Whether the input was counted without what was in the cache or put there. */
  private isCacheBeside = false;
  /** The word with which each take finished, and what came of it. */
  private readonly finishes = new Map<number, string>();
  private readonly said = new Map<number, { text: boolean; tool: boolean }>([[0, { text: false, tool: false }]]);
  /** Text so far and remembered words, by take and block. */
  private readonly soFar = new Map<Path, Map<string, string>>();
  private readonly remembered = new Map<string, string>();
  /** Calls of tools that began in each take, and the id of the last, where nothing else tells them apart. */
  private readonly calls = new Map<number, { count: number; id: string | undefined }>();
  private readonly leftOut = new Set<string>();
  /** Numbers of the latest events: one that comes twice is left out, in whatever order they come. */
  private readonly numbers = new Set<number>();

  /** @param watch is told what was taken and where, for whoever wants to show it */
  constructor(
    private readonly profile: CompiledProfile,
    private readonly watch?: Watch,
  ) {}

  /** Reads one event of a stream; what it tells is added to `events`. */
  read(rules: readonly CompiledRule[], { name, data, id }: Frame, events: ReadEvent[]): void {
    const { number, end } = this.profile.stream ?? {};
    if (data === end?.sentinel) {
      this.watch?.({ what: "end" }, undefined);
      this.end(events);
      return;
    }
    const document = parseJson(data);
    if (document === undefined) {
      // what was to be JSON and is broken may have held text; what is none, such as a heartbeat or a date, holds nothing
      if (/^\s*[[{"]/.test(data))
        this.fail("bad-reply", `An event of the answer is not JSON: ${excerpt(data)}`, events);
      else if (data.trim() !== "") events.push({ event: "passed-over", take: null, data: { found: excerpt(data) } });
      return;
    }
    if (number && this.isRepeated(number === "id" ? Number(id || Number.NaN) : number.first(document))) return;
    const reported = this.reported(name, document);
    if (reported) {
      this.failWith(reported, events);
      return;
    }
    this.take(rules, name, document, events);
    if (!end?.when || this.ended || !holds(end.when, name, document)) return;
    if (end.when.at) this.tell({ what: "end" }, end.when.at, document, []);
    this.end(events);
  }

  private isRepeated(number: unknown): boolean {
    if (typeof number !== "number" || Number.isNaN(number)) return false;
    if (this.numbers.has(number)) return true;
    this.numbers.add(number);
    for (const oldest of this.numbers.size > mostNumbers ? this.numbers : []) {
      this.numbers.delete(oldest);
      break;
    }
    return false;
  }

  /** Puts rules to one document; what they take is added to `events`. */
  take(rules: readonly CompiledRule[], name: string, document: unknown, events: ReadEvent[]): void {
    this.count += 1;
    for (const rule of rules) {
      if (this.watch) this.applyWatched(rule, name, document, events);
      else if (rule.each) rule.each.each(document, (element) => this.apply(rule, name, element, events));
      else this.apply(rule, name, document, events);
      if (this.ended) return;
    }
  }

  /** The same with the places of what is taken, which cost more to find. */
  private applyWatched(rule: CompiledRule, name: string, document: unknown, events: ReadEvent[]): void {
    for (const place of rule.each ? rule.each.places(document) : [[]]) {
      const at = place.reduce<unknown>((value, step) => (value as Record<string | number, unknown>)?.[step], document);
      if (!this.apply(rule, name, at, events)) continue;
      const isSoFar = rule.soFar === true;
      this.tell({ what: "text", isSoFar }, rule.text, at, place);
      this.tell({ what: "thought", isSoFar }, rule.thought, at, place);
      this.tellTool(rule, at, place);
      this.tell({ what: "take" }, rule.take, at, place);
      this.tell({ what: "finish", reason: this.reasonFor(wordOf(rule.finish?.first(at))) }, rule.finish, at, place);
      this.tell({ what: "input" }, rule.usage?.input, at, place);
      this.tell({ what: "output" }, rule.usage?.output, at, place);
      this.tell({ what: "thought tokens" }, rule.usage?.thought, at, place);
      this.tell({ what: "carry" }, rule.carry, at, place);
    }
  }

  private tellTool({ tool }: CompiledRule, at: unknown, place: Place): void {
    for (const inner of tool?.each ? tool.each.places(at) : [[]]) {
      const call = inner.reduce<unknown>((value, step) => (value as Record<string | number, unknown>)?.[step], at);
      this.tell({ what: "tool" }, tool?.name, call, [...place, ...inner]);
      this.tell({ what: "arguments" }, tool?.arguments, call, [...place, ...inner]);
    }
  }

  private tell(taken: Taken, path: Path | undefined, at: unknown, place: Place): void {
    for (const inner of path?.places(at) ?? []) this.watch?.(taken, [...place, ...inner]);
  }

  /** A failure that the provider reports inside an answer that began well. */
  reported(name: string, document: unknown): Problem | undefined {
    const { when, message } = this.profile.problem;
    if (when ? !holds(when, name, document) : message.first(document) == null) return undefined;
    this.tell({ what: "error" }, message, document, []);
    return problemIn(this.profile, document);
  }

  /**
   * Ends the reply: each take by the finish word that was read for it.
   * @param whole given for an answer that came at once, to say what it holds if there is no text in it
   */
  end(events: ReadEvent[], whole?: "whole", document?: unknown): void {
    this.ended = true;
    const hasCounts = Object.keys(this.counts).length > 0;
    if (hasCounts) events.push({ event: "counts", take: null, data: this.allCounts() });
    for (const [take, { text, tool }] of this.said) {
      const finish = this.finishes.get(take);
      const reason = this.reason(finish, text, tool);
      const failed = (kind: Problem["kind"], detail: string) =>
        events.push({ event: "problem", take, data: problem(kind, detail) });
      if (reason === undefined)
        failed("bad-reply", `The reply ended with "${finish}", which the profile has no word for in finishWords.`);
      else if (text || tool || reason === "refused") events.push({ event: "end", take, data: { reason } });
      else if (whole && finish === undefined && !hasCounts)
        failed("bad-reply", `No rule of the profile found anything in the answer, which holds ${namesOf(document)}.`);
      else failed("empty", "The provider ended the reply without any text.");
    }
  }

  fail(kind: Problem["kind"], detail: string, events: ReadEvent[]): void {
    this.failWith(problem(kind, detail), events);
  }

  failWith(reported: Problem, events: ReadEvent[]): void {
    this.ended = true;
    events.push({ event: "problem", take: null, data: reported });
  }

  get finished(): boolean {
    return this.finishes.has(0);
  }

  private reason(finish: string | undefined, text: boolean, tool: boolean): EndReason | undefined {
    return finish === undefined ? (tool && !text ? "tools" : "complete") : this.reasonFor(finish);
  }

  /** What the profile takes a finish word for. */
  private reasonFor(finish: string | undefined): EndReason | undefined {
    const { finishWords } = this.profile.source;
    if (finish === undefined) return undefined;
    return (Object.hasOwn(finishWords, finish) ? finishWords[finish] : undefined) ?? finishWords["*"];
  }

  /** Puts a rule to a part of a document; false where its condition does not hold. */
  private apply(rule: CompiledRule, name: string, at: unknown, events: ReadEvent[]): boolean {
    const take = rule.take ? takeIn(rule.take.first(at)) : 0;
    if (take >= mostTakes) return false;
    const { when } = rule;
    if (when) {
      if (!holds(when, name, at)) return false;
      if (when.remembered !== undefined && this.remembered.get(blockOf(rule, take, at)) !== when.remembered)
        return false;
    }
    if (rule.remember) {
      const word = wordOf(rule.remember.first(at));
      if (word !== undefined) this.remembered.set(blockOf(rule, take, at), word);
    }
    if (rule.text) this.say("text", this.textAt(rule, rule.text, take, at, events), take, events);
    if (rule.thought) this.say("thought", this.textAt(rule, rule.thought, take, at, events), take, events);
    if (rule.tool) this.tool(rule, rule.tool, take, at, events);
    if (rule.finish) {
      const finish = rule.finish.first(at);
      // many APIs have the member in every event, and leave it empty until the end
      if ((typeof finish === "string" && finish !== "") || typeof finish === "number") {
        this.heard(take);
        this.finishes.set(take, String(finish));
      }
    }
    if (rule.usage) this.addCounts(rule.usage, rule.take ? take : null, at, events);
    if (rule.carry) {
      const value = rule.carry.first(at);
      if (value !== undefined && value !== null && !isDeeperThan(value))
        events.push({ event: "carry", take, data: { value } });
    }
    return true;
  }

  private textAt(rule: CompiledRule, path: Path, take: number, at: unknown, events: ReadEvent[]): string {
    const found = path.isMany ? joinedAt(path, at) : path.first(at);
    if (typeof found !== "string" || found === "") return "";
    if (!rule.soFar) return found;
    const known = this.soFar.get(path) ?? new Map<string, string>();
    const block = rule.block || take > 0 ? blockOf(rule, take, at) : "";
    const before = known.get(block) ?? "";
    if (found.slice(0, before.length) !== before) {
      // the same event once more, or an old one late: nothing in it is new
      if (before.startsWith(found)) return "";
      this.fail("bad-reply", "The text so far no longer begins as it did in the event before.", events);
      return "";
    }
    known.set(block, found);
    this.soFar.set(path, known);
    return found.slice(before.length);
  }

  private say(event: "text" | "thought", text: string, take: number, events: ReadEvent[]): void {
    if (text === "") return;
    const said = this.heard(take);
    if (event === "text") said.text = true;
    events.push({ event, take, data: { text } });
  }

  private tool(
    rule: CompiledRule,
    tool: NonNullable<CompiledRule["tool"]>,
    take: number,
    at: unknown,
    events: ReadEvent[],
  ): void {
    if (tool.each) tool.each.each(at, (call) => this.toolAt(rule, tool, take, call, events));
    else this.toolAt(rule, tool, take, at, events);
  }

  /** Reads what stands of one call at a place. */
  private toolAt(
    rule: CompiledRule,
    tool: NonNullable<CompiledRule["tool"]>,
    take: number,
    at: unknown,
    events: ReadEvent[],
  ): void {
    const text = (path: Path | undefined) => {
      const value = path?.first(at);
      if (value === undefined || value === null) return undefined;
      return written(value);
    };
    const call = { id: text(tool.id), name: text(tool.name), arguments: text(tool.arguments) };
    const told = Object.fromEntries(Object.entries(call).filter(([, value]) => value !== undefined));
    if (Object.keys(told).length === 0) return;
    const heard = this.heard(take);
    heard.tool = true;
    const numbered = tool.block ?? rule.block;
    const block = numbered ? blockOf({ block: numbered }, take, at) : this.callIn(take, told);
    events.push({ event: "tool", take, data: { block, ...told } });
  }

  /** The block of a call where nothing numbers calls: one that says its name is another one, unless its id is the same. */
  private callIn(take: number, { id, name }: { id?: string; name?: string }): string {
    const before = this.calls.get(take) ?? { count: 0, id: undefined };
    const isOther = before.count === 0 || (name !== undefined && (id === undefined || id !== before.id));
    const call = { count: before.count + (isOther ? 1 : 0), id: id ?? before.id };
    this.calls.set(take, call);
    return `${take}.call ${call.count}`;
  }

  /** What was said in a take so far. */
  private heard(take: number): { text: boolean; tool: boolean } {
    const said = this.said.get(take) ?? { text: false, tool: false };
    this.said.set(take, said);
    return said;
  }

  /** The counts, those of the input for all of it. */
  private allCounts(): Partial<TokenCounts> {
    const { input, cachedInput = 0, cacheWrite = 0 } = this.counts;
    if (!this.isCacheBeside || input === undefined) return this.counts;
    return { ...this.counts, input: countIn(input + cachedInput + cacheWrite) ?? input };
  }

  private addCounts(
    { adds, cacheIsBeside = false, ...usage }: NonNullable<CompiledRule["usage"]>,
    take: number | null,
    at: unknown,
    events: ReadEvent[],
  ): void {
    this.isCacheBeside ||= cacheIsBeside;
    for (const name of ["input", "output", "cachedInput", "cacheWrite", "thought"] as const) {
      const value = usage[name]?.first(at);
      if (value === undefined || value === null) continue;
      const counted = countIn(value);
      const sum = counted === undefined ? undefined : countIn(counted + (adds ? (this.counts[name] ?? 0) : 0));
      if (sum !== undefined) this.counts[name] = sum;
      else if (!this.leftOut.has(name)) {
        this.leftOut.add(name);
        events.push({ event: "left-out", take, data: { count: name, found: excerpt(written(value)) } });
      }
    }
  }
}

function joinedAt(path: Path, at: unknown): string {
  let text = "";
  path.each(at, (each) => {
    if (typeof each === "string") text += each;
  });
  return text;
}

function blockOf({ block }: Pick<CompiledRule, "block">, take: number, at: unknown): string {
  return block ? `${take}.${wordOf(block.first(at))}` : `${take}`;
}

/** The number of a take, from 0; the first where it is none. */
function takeIn(value: unknown): number {
  const take = Number(wordOf(value) ?? 0);
  return Number.isSafeInteger(take) && take > 0 ? take : 0;
}

/** Whether a condition holds for an event, as far as it does not ask for what was remembered. */
export function holds(condition: CompiledCondition, name: string, at: unknown): boolean {
  if (condition.event !== undefined && condition.event !== name) return false;
  if (!condition.at) return true;
  const value = condition.at.first(at);
  return condition.is ? condition.is.includes(value) : value !== undefined && value !== null;
}

function namesOf(document: unknown): string {
  if (Array.isArray(document)) return `a list of ${document.length}`;
  if (typeof document !== "object" || document === null) return `only ${excerpt(written(document))}`;
  const names = Object.keys(document);
  return names.length === 0 ? "nothing" : names.slice(0, 8).join(", ");
}
