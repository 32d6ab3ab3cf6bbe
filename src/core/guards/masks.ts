import type { Piece } from "../conversation/pieces";
import type { WireMessage } from "../wire/message";
import { compile } from "./automaton";
import { Finder } from "./finder";
import { addUp, type Caught, type Guard } from "./guard";
import { nameOf } from "./guarded-text";
import { foundIn, type ReadyGuard } from "./looking";
import type { Matcher, Stretch } from "./matcher";

/** What was masked, by its mark. */
interface Masked {
  mark: string;
  text: string;
  putsBack: boolean;
}

/**
 * What is masked in the messages of one call: the same text has the same mark in all of them. Personal data that stands
 * in the app's own words (its prompt, its passages) is no visitor's, and stays. What was refused when it was said is
 * masked where it would go along later.
 */
export class Masks {
  private readonly byText = new Map<string, Masked>();
  private readonly numbers = new Map<string, number>();
  private readonly own: string;

  /**
   * @param guards those that mask or refuse before sending
   * @param own the app's own words
   */
  constructor(
    private readonly guards: readonly ReadyGuard[],
    own: readonly string[],
  ) {
    this.own = own.join("\n").toLowerCase();
  }

  /** Messages as they are sent. */
  messages(messages: readonly WireMessage[]): WireMessage[] {
    return messages.map(({ role, pieces, ...message }) => ({
      ...message,
      role,
      pieces: pieces.map((piece) =>
        role === "visitor" && piece.kind === "text" && this.isTooLong(piece.text)
          ? { ...piece, text: this.masked(piece.text, "length", false).mark }
          : this.piece(piece),
      ),
    }));
  }

  /** A text as it is sent. */
  text(text: string): string {
    let out = "";
    let from = 0;
    for (const { stretch, masked } of this.foundIn(text)) {
      out += text.slice(from, stretch.from) + masked.mark;
      from = stretch.to;
    }
    return out + text.slice(from);
  }

  /** What guards mask in a text, each of them counted. */
  caughtIn(text: string): Caught[] {
    const found = this.foundIn(text).filter(({ guard }) => guard.does === "mask");
    return addUp(found.map(({ guard, what }) => ({ guard: guard.name, on: "sent", does: "mask", what, times: 1 })));
  }

  /** Puts back what stands behind marks, in a text that is whole. */
  putBack(text: string): string {
    const back = this.back();
    return back.feed(text) + back.close();
  }

  /** Puts back what stands behind marks, in a value of JSON. */
  putBackValue<T>(value: T): T {
    if (this.byText.size === 0) return value;
    return mapTexts(value, (text) => this.putBack(text)) as T;
  }

  /** Puts back what stands behind marks, in a text that still arrives. */
  back(): PuttingBack {
    return new PuttingBack([...this.byText.values()].filter(({ putsBack }) => putsBack));
  }

  /** Whether a text is one that was masked, and is put back. */
  readonly isPutBack = (text: string): boolean => this.byText.get(text.trim())?.putsBack ?? false;

  /** Whether a text was refused for its length when it was said. */
  private isTooLong(text: string): boolean {
    return this.guards.some(
      ({ guard: { looksFor, does } }) =>
        looksFor.kind === "length" && does === "refuse" && [...text].length > looksFor.most,
    );
  }

  private piece(piece: Piece): Piece {
    const text = (each: string) => this.text(each);
    switch (piece.kind) {
      case "text":
        return { ...piece, text: text(piece.text) };
      case "tool":
        return {
          ...piece,
          arguments: mapTexts(piece.arguments, text) as typeof piece.arguments,
          ...(piece.result === undefined ? {} : { result: text(piece.result) }),
        };
      case "data":
        return { ...piece, value: mapTexts(piece.value, text) as typeof piece.value };
      default:
        return piece;
    }
  }

  /** What is masked in a text, in order, none of it overlapping. */
  private foundIn(text: string): { stretch: Stretch; masked: Masked; guard: Guard; what: Caught["what"] }[] {
    const all = this.guards.flatMap(({ guard, begin }) =>
      begin().flatMap(({ what, matcher }) => foundIn(text, matcher).map((stretch) => ({ stretch, guard, what }))),
    );
    all.sort((a, b) => a.stretch.from - b.stretch.from || b.stretch.to - a.stretch.to);
    let to = 0;
    return all.flatMap(({ stretch, guard, what }) => {
      const found = text.slice(stretch.from, stretch.to);
      const isOwn = guard.looksFor.kind === "personal" || guard.does === "refuse";
      if (isOwn && this.own.includes(found.toLowerCase())) return [];
      // of what overlaps, the rest of the later one is masked too
      const rest = { from: Math.max(stretch.from, to), to: stretch.to };
      if (rest.from >= rest.to) return [];
      to = rest.to;
      const masked = this.masked(text.slice(rest.from, rest.to), what, guard.putsBack ?? false);
      return [{ stretch: rest, masked, guard, what }];
    });
  }

  private masked(text: string, what: Caught["what"], putsBack: boolean): Masked {
    const known = this.byText.get(text);
    if (known) return known;
    const name = nameOf(what);
    const number = (this.numbers.get(name) ?? 0) + 1;
    this.numbers.set(name, number);
    const masked = { mark: `[${name} #${number}]`, text, putsBack };
    this.byText.set(text, masked);
    return masked;
  }
}

/** Puts texts in the places of their marks, in a text that still arrives: the beginning of a mark is held back. */
export class PuttingBack {
  private readonly matcher: Matcher | undefined;
  private held = "";
  private released = 0;
  private read = 0;

  constructor(private readonly masked: readonly Masked[]) {
    if (masked.length === 0) return;
    const automaton = compile({
      kind: "either",
      of: masked.map(({ mark }) => ({
        kind: "row",
        of: [...mark].map((sign) => ({ kind: "one", takes: (code) => code === sign.codePointAt(0) })),
      })),
    });
    this.matcher = new Finder({ automaton });
  }

  feed(text: string): string {
    const { matcher } = this;
    if (!matcher) return text;
    let out = "";
    // marks are ASCII: units do
    for (let at = 0; at < text.length; at += 1) {
      this.held += text[at];
      const [found] = matcher.feed(text.charCodeAt(at), this.read);
      this.read += 1;
      if (found) out += this.without(found);
    }
    return out + this.take(matcher.open ?? this.read);
  }

  close(): string {
    return this.take(this.read);
  }

  private without({ from, to }: Stretch): string {
    const before = this.take(from);
    const mark = this.take(to);
    return before + (this.masked.find((each) => each.mark === mark)?.text ?? mark);
  }

  private take(to: number): string {
    const text = this.held.slice(0, to - this.released);
    this.held = this.held.slice(to - this.released);
    this.released = to;
    return text;
  }
}

/** A value of JSON with each of its texts made another. */
export function mapTexts(value: unknown, to: (text: string) => string): unknown {
  if (typeof value === "string") return to(value);
  if (Array.isArray(value)) return value.map((each) => mapTexts(each, to));
  if (value === null || typeof value !== "object") return value;
  return Object.fromEntries(Object.entries(value).map(([name, each]) => [name, mapTexts(each, to)]));
}
