import { type Problem, problem } from "../../problem/problem";
import type { EndReason, ReadEvent } from "../../reply/events";
import { bareProblem, problemIn } from "../failure";
import { ArrayCutter } from "../framing/array";
import type { Frame } from "../framing/framing";
import { excerpt, isDeeperThan, parseJson, wordOf, written } from "../json";
import type { Path } from "../path";
import { type CompiledProfile, type CompiledRule, errorEvent } from "../profile";
import { Calls } from "./calls";
import { holds } from "./condition";
import { Counted } from "./counts";
import { Repeats } from "./repeats";
import { rulesFor } from "./rules";
import { Said } from "./said";
import type { Around, Standing } from "./standing";

/** Takes of one call that are read; nobody asks for more, so a provider that numbers further has made them up. */
const mostTakes = 16;

/** Sources that one answer may bring; what is beyond is no list that anybody reads. */
const mostSources = 50;

/** The steps from the root of a document to a value in it. */
export type Place = readonly (string | number)[];

/** What was taken from a place of a document. */
export type Taken =
  | { what: "text" | "thought"; isSoFar: boolean }
  | {
      what:
        | "tool"
        | "arguments"
        | "take"
        | "input"
        | "output"
        | "thought tokens"
        | "carry"
        | "version"
        | "source"
        | "picture"
        | "error"
        | "end";
    }
  | { what: "finish"; reason: EndReason | undefined };

/** Is told what is taken and where; no place is all of an event. */
export type Watch = (taken: Taken, place: Place | undefined) => void;

/** Whether a take said anything, and what. */
interface Heard {
  text: boolean;
  tool: boolean;
  picture: boolean;
}
const nothingHeard: Heard = { text: false, tool: false, picture: false };

/** Pictures of one answer that are looked at. */
const mostPictures = 10;

/** Reads the documents of one answer by the rules of its profile, and knows how it ended. */
export class Reading {
  /** The documents that rules were put to. */
  count = 0;
  ended = false;
  /** The beginning of the last event that no rule could read, which may be what the provider says of a failure. */
  stray: string | undefined;
  /** The word with which each take finished, and what came of it. */
  private readonly finishes = new Map<number, string>();
  private readonly heardOf = new Map<number, Heard>([[0, { ...nothingHeard }]]);
  private readonly remembered = new Map<string, string>();
  private readonly said = new Said();
  private readonly calls = new Calls();
  private readonly counted = new Counted();
  private readonly repeats = new Repeats();
  private version: string | undefined;
  private sources = 0;
  private pictures = 0;

  /** @param watch is told what was taken and where, for whoever wants to show it */
  constructor(
    private readonly profile: CompiledProfile,
    private readonly around: Around = { headers: {}, at: 0 },
    private readonly watch?: Watch,
  ) {}

  /** Reads one event of a stream; what it tells is added to `events`. */
  read(rules: readonly CompiledRule[], { name, data, id }: Frame, events: ReadEvent[]): void {
    const { number, end } = this.profile.stream ?? {};
    if (end?.sentinel !== undefined && isSentinel(data, end.sentinel)) {
      this.watch?.({ what: "end" }, undefined);
      this.end(events);
      return;
    }
    const document = parseJson(data);
    if (this.profile.readsRaw && this.takeRaw(rules, name, data, document, events)) return;
    if (document === undefined) {
      const several = documentsIn(data);
      if (several) this.readAll(rules, several, { name, id }, events);
      else this.passOver(name, data, events);
      return;
    }
    if (number && this.repeats.isRepeat(number === "id" ? Number(id || Number.NaN) : number.first(document), data))
      return;
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

  /** Reads documents that came in one event as an event each. */
  private readAll(
    rules: readonly CompiledRule[],
    documents: readonly string[],
    of: Omit<Frame, "data">,
    events: ReadEvent[],
  ): void {
    for (const data of documents) {
      if (this.ended) return;
      this.read(rules, { ...of, data }, events);
    }
  }

  /**
   * Puts the rules that read data as it stands to an event: those of its name always, those of no name where it is no
   * object and no list.
   * @returns whether one took it
   */
  private takeRaw(
    rules: readonly CompiledRule[],
    name: string,
    data: string,
    document: unknown,
    events: ReadEvent[],
  ): boolean {
    const isDocument = typeof document === "object" && document !== null;
    const takers = rules.filter(
      ({ raw, when }) => raw && (when?.event === undefined ? !isDocument : when.event === name),
    );
    if (takers.length === 0) return false;
    this.put(takers, name, data, events);
    return true;
  }

  /** An event that is no JSON: an error by its name, broken JSON, or nothing that a rule wants. */
  private passOver(name: string, data: string, events: ReadEvent[]): void {
    const { when } = this.profile.problem;
    const isNamedSo = name === errorEvent && !this.profile.readsErrors;
    if (isNamedSo || (when?.event !== undefined && !when.at && holds(when, name, undefined)))
      this.fail("reported", `The provider reports: ${excerpt(data)}`, events);
    // what was to be JSON and is broken may have held text; what is none, such as a heartbeat or a date, holds nothing
    else if (looksBroken(data)) this.fail("bad-reply", `An event of the answer is not JSON: ${excerpt(data)}`, events);
    else if (data.trim() !== "") {
      this.stray = excerpt(data);
      events.push({ event: "passed-over", take: null, data: { found: this.stray } });
    }
  }

  /** Puts rules to one document; what they take is added to `events`. */
  take(rules: readonly CompiledRule[], name: string, document: unknown, events: ReadEvent[]): void {
    this.put(rulesFor(rules, name), name, document, events);
  }

  private put(rules: readonly CompiledRule[], name: string, document: unknown, events: ReadEvent[]): void {
    this.count += 1;
    for (const rule of rules) {
      if (this.watch) this.applyWatched(rule, name, document, events);
      else if (rule.each) for (const element of rule.each.all(document)) this.apply(rule, name, element, events);
      else this.apply(rule, name, document, events);
      if (this.ended) return;
    }
  }

  /** Says text that stands in no document: a body that is the reply itself. */
  takeBody(text: string, events: ReadEvent[]): void {
    this.count += 1;
    this.say("text", text, 0, events);
  }

  /** Puts a rule to one document and tells the places of what it takes, which cost more to find. */
  private applyWatched(rule: CompiledRule, name: string, document: unknown, events: ReadEvent[]): void {
    for (const place of rule.each ? rule.each.places(document) : [[]]) {
      const at = valueAt(document, place);
      if (!this.apply(rule, name, at, events)) continue;
      const isSoFar = rule.soFar === true;
      this.tell({ what: "text", isSoFar }, rule.text, at, place);
      this.tell({ what: "thought", isSoFar }, rule.thought, at, place);
      this.tellTool(rule, at, place);
      this.tell({ what: "take" }, rule.take, at, place);
      this.tell({ what: "finish", reason: this.reasonFor(wordOf(rule.finish?.first(at))) }, rule.finish, at, place);
      this.tellStanding({ what: "input" }, rule.usage?.input, at, place);
      this.tellStanding({ what: "output" }, rule.usage?.output, at, place);
      this.tellStanding({ what: "thought tokens" }, rule.usage?.thought, at, place);
      this.tell({ what: "carry" }, rule.carry, at, place);
      this.tell({ what: "version" }, rule.version, at, place);
      this.tell({ what: "source" }, rule.sources?.each, at, place);
      this.tell({ what: "picture" }, rule.pictures?.each, at, place);
    }
  }

  private tellTool({ tool }: CompiledRule, at: unknown, place: Place): void {
    for (const inner of tool?.each ? tool.each.places(at) : [[]]) {
      const call = valueAt(at, inner);
      this.tell({ what: "tool" }, tool?.name, call, [...place, ...inner]);
      this.tell({ what: "arguments" }, tool?.arguments, call, [...place, ...inner]);
    }
  }

  private tellStanding(taken: Taken, standing: Standing | undefined, at: unknown, place: Place): void {
    this.tell(taken, standing?.pathIn(at), at, place);
  }

  private tell(taken: Taken, path: Path | undefined, at: unknown, place: Place): void {
    for (const inner of path?.places(at) ?? []) this.watch?.(taken, [...place, ...inner]);
  }

  /** A failure that the provider reports inside an answer that began well. */
  reported(name: string, document: unknown): Problem | undefined {
    const { when, message } = this.profile.problem;
    if (when ? !holds(when, name, document) : !isTold(message.first(document)))
      return name === errorEvent && !this.profile.readsErrors
        ? bareProblem(this.profile, document, this.around)
        : undefined;
    this.tellStanding({ what: "error" }, message, document, []);
    return problemIn(this.profile, document, this.around);
  }

  /**
   * Ends the reply: each take by the finish word that was read for it.
   * @param whole given for an answer that came at once, to say what it holds if there is no text in it
   */
  end(events: ReadEvent[], whole?: "whole", document?: unknown): void {
    this.ended = true;
    this.close(events);
    const hasCounts = !this.counted.isEmpty;
    if (hasCounts) events.push({ event: "counts", take: null, data: this.counted.all() });
    for (const [take, { text: hasText, tool, picture }] of this.heardOf) {
      const text = hasText || picture;
      const finish = this.finishes.get(take);
      const reason = finish === undefined ? (tool && !text ? "tools" : "complete") : this.reasonFor(finish);
      const failed = (kind: Problem["kind"], detail: string) =>
        events.push({ event: "problem", take, data: problem(kind, detail) });
      if (reason === undefined)
        failed("bad-reply", `The reply ended with "${finish}", which the profile has no word for in finishWords.`);
      else if (text || tool || reason === "refused") events.push({ event: "end", take, data: { reason } });
      else if (whole && finish === undefined && !hasCounts)
        failed("bad-reply", `No rule of the profile found anything in the answer, which holds ${namesOf(document)}.`);
      else failed("empty", `The provider ended the reply without any text.${this.strayWords()}`);
    }
  }

  /** What waited for more: half a character, arguments of which each event held all so far, counts in headers. */
  private close(events: ReadEvent[]): void {
    this.said.close(events);
    this.calls.close(events);
    for (const usage of this.profile.headerCounts) this.counted.readHeaders(usage, this.around.headers, events);
  }

  fail(kind: Problem["kind"], detail: string, events: ReadEvent[]): void {
    this.failWith(problem(kind, detail), events);
  }

  failWith(reported: Problem, events: ReadEvent[]): void {
    this.ended = true;
    events.push({ event: "problem", take: null, data: reported });
  }

  /** What came beside the events, to be added to what is said of a failure; empty where nothing did. */
  strayWords(): string {
    return this.stray === undefined ? "" : ` It sent beside its events: ${this.stray}`;
  }

  get finished(): boolean {
    return this.finishes.has(0);
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
    if (rule.finish) this.finish(rule.finish.first(at), take);
    if (rule.usage) this.counted.read(rule.usage, rule.take ? take : null, at, events);
    if (rule.carry) {
      const value = rule.carry.first(at);
      if (value !== undefined && value !== null && !isDeeperThan(value))
        events.push({ event: "carry", take, data: { value } });
    }
    if (rule.version) this.keepVersion(rule.version.first(at), events);
    if (rule.sources) this.takeSources(rule.sources, take, at, events);
    if (rule.pictures) this.takePictures(rule.pictures, take, at, events);
    return true;
  }

  private textAt(rule: CompiledRule, path: Path, take: number, at: unknown, events: ReadEvent[]): string {
    const found = path.isMany ? path.joined(at) : path.first(at);
    if (typeof found !== "string" || found === "") return "";
    if (!rule.soFar) return found;
    const block = rule.block || take > 0 ? blockOf(rule, take, at) : "";
    const fresh = this.said.newIn(path, block, found);
    if (fresh === undefined)
      this.fail("bad-reply", "The text so far no longer begins as it did in the event before.", events);
    else if (fresh.mended) events.push({ event: "mended", take, data: fresh.mended });
    return fresh?.text ?? "";
  }

  private say(event: "text" | "thought", text: string, take: number, events: ReadEvent[]): void {
    if (text === "") return;
    const heard = this.heard(take);
    if (event === "text") heard.text = true;
    this.said.say(event, text, take, events);
  }

  private tool(
    rule: CompiledRule,
    tool: NonNullable<CompiledRule["tool"]>,
    take: number,
    at: unknown,
    events: ReadEvent[],
  ): void {
    if (tool.each) for (const call of tool.each.all(at)) this.toolAt(rule, tool, take, call, events);
    else this.toolAt(rule, tool, take, at, events);
  }

  private toolAt(
    rule: CompiledRule,
    tool: NonNullable<CompiledRule["tool"]>,
    take: number,
    call: unknown,
    events: ReadEvent[],
  ): void {
    const numbered = tool.block ?? rule.block;
    // where the number is left out, calls are told apart as where there is none
    const isNumbered = numbered !== undefined && wordOf(numbered.first(call)) !== undefined;
    const block = isNumbered ? blockOf({ block: numbered }, take, call) : undefined;
    if (this.calls.read(tool, take, block, call, events)) this.heard(take).tool = true;
  }

  private finish(finish: unknown, take: number): void {
    // many APIs have the member in every event, and leave it empty until the end
    if ((typeof finish !== "string" || finish === "") && typeof finish !== "number") return;
    this.heard(take);
    this.finishes.set(take, String(finish));
  }

  private keepVersion(found: unknown, events: ReadEvent[]): void {
    const version = wordOf(found)?.slice(0, longestName);
    if (version === undefined || version === "" || version === this.version) return;
    this.version = version;
    events.push({ event: "version", take: null, data: { version } });
  }

  private takePictures(
    { each, bytes }: NonNullable<CompiledRule["pictures"]>,
    take: number,
    at: unknown,
    events: ReadEvent[],
  ): void {
    for (const picture of each.all(at)) {
      const written = bytes.first(picture);
      if (typeof written !== "string" || written === "" || this.pictures >= mostPictures) continue;
      this.pictures += 1;
      this.heard(take).picture = true;
      events.push({ event: "picture", take, data: { base64: written.replace(/^data:[^,]*,/, "") } });
    }
  }

  private takeSources(
    { each, title, address, text }: NonNullable<CompiledRule["sources"]>,
    take: number,
    at: unknown,
    events: ReadEvent[],
  ): void {
    for (const source of each.all(at)) {
      if (this.sources >= mostSources) return;
      const wordsAt = (path: Path | undefined) => wordOf(path?.first(source))?.slice(0, longestQuote) || undefined;
      const data = { title: wordsAt(title), address: wordsAt(address), text: wordsAt(text) };
      if (data.title === undefined && data.address === undefined && data.text === undefined) continue;
      this.sources += 1;
      events.push({ event: "source", take, data });
    }
  }

  /** What was said in a take so far. */
  private heard(take: number): Heard {
    const known = this.heardOf.get(take);
    if (known) return known;
    const heard = { ...nothingHeard };
    this.heardOf.set(take, heard);
    return heard;
  }
}

/** Characters of a version's name, and of what a source quotes, that are kept. */
const longestName = 200;
const longestQuote = 2_000;

/** Whether data is a sentinel, with blanks around it or without; what is much longer is not looked at. */
function isSentinel(data: string, sentinel: string): boolean {
  return data.length <= sentinel.length + 8 && data.trim() === sentinel;
}

/** Whether a text looks like JSON that was cut or broken, and not like words in brackets. */
function looksBroken(data: string): boolean {
  return /^\s*(?:\{\s*(?:"|\}|$)|\[\s*(?:[[{"\d\]-]|true\b|false\b|null\b|$))/.test(data);
}

/** Whether a member says something: many APIs have it in every event, and leave it empty where all is well. */
/** Documents that stand one behind the other in one event; undefined where they are not several, or one of them is broken. */
function documentsIn(data: string): string[] | undefined {
  if (!/[}\]]\s*[{[]/.test(data)) return undefined;
  const cutter = new ArrayCutter();
  const parts = cutter.feed(`[${data}`).map((frame) => frame.data);
  const isWhole = parts.length > 1 && parts.join("") === data.trimEnd();
  return isWhole && parts.every((part) => parseJson(part) !== undefined) ? parts : undefined;
}

function isTold(value: unknown): boolean {
  if (typeof value === "object" && value !== null) return Object.keys(value).length > 0;
  return value !== undefined && value !== null && value !== "" && value !== false;
}

function valueAt(document: unknown, place: Place): unknown {
  return place.reduce<unknown>((value, step) => (value as Record<string | number, unknown>)?.[step], document);
}

function blockOf({ block }: Pick<CompiledRule, "block">, take: number, at: unknown): string {
  return block ? `${take}.${wordOf(block.first(at))}` : `${take}`;
}

/** The number of a take, from 0; the first where it is none. */
function takeIn(value: unknown): number {
  const take = Number(wordOf(value) ?? 0);
  return Number.isSafeInteger(take) && take > 0 ? take : 0;
}

function namesOf(document: unknown): string {
  if (Array.isArray(document)) return `a list of ${document.length}`;
  if (typeof document !== "object" || document === null) return `only ${excerpt(written(document))}`;
  const names = Object.keys(document);
  return names.length === 0 ? "nothing" : names.slice(0, 8).join(", ");
}
