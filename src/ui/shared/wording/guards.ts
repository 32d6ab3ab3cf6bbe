import type { Caught, Guard, GuardAct, LooksFor } from "@/core/guards/guard";
import { heldBackBy } from "@/core/guards/looking";
import type { PersonalKind } from "@/core/guards/personal";
import { count, many } from "../format";

/** Kinds of personal data, as several of them are called. */
export const personalWords: Record<PersonalKind, string> = {
  "e-mail": "e-mail addresses",
  phone: "phone numbers",
  card: "card numbers",
  account: "account numbers",
};

/** What a guard does, as the verb of a sentence. */
export const actWords: Record<GuardAct, string> = { refuse: "refuses", mask: "masks", mark: "marks" };

/** What was done with what was caught. */
export const doneWords: Record<GuardAct, string> = { refuse: "refused", mask: "masked", mark: "marked" };

/** What was caught, so often. */
export function wordsOfCaught({ what, times }: Pick<Caught, "what" | "times">): string {
  switch (what) {
    case "e-mail":
      return many(times, "e-mail address", "e-mail addresses");
    case "phone":
      return many(times, "phone number");
    case "card":
      return many(times, "card number");
    case "account":
      return many(times, "account number");
    case "length":
      return "too long";
    case "words":
      return many(times, "word");
    case "pattern":
      return many(times, "match", "matches");
    case "prompt":
      return many(times, "stretch", "stretches").concat(" of the prompt");
    case "judge":
      return "judged to miss the rubric";
  }
}

/** What a guard looks for. */
export function wordsOfLook(looksFor: LooksFor): string {
  switch (looksFor.kind) {
    case "length":
      return `more than ${count(looksFor.most)} characters`;
    case "words":
      return looksFor.words.length === 1 ? `“${looksFor.words[0]}”` : `${looksFor.words.length} words`;
    case "pattern":
      return `/${looksFor.pattern}/`;
    case "personal":
      return new Intl.ListFormat("en").format(looksFor.kinds.map((kind) => personalWords[kind]));
    case "prompt":
      return `${looksFor.words} words of the prompt`;
    case "judge":
      return `what misses “${looksFor.rubric}”`;
  }
}

/** How far a guard holds text back that still arrives. */
export function wordsOfHold(guard: Guard): string {
  const held = heldBackBy(guard);
  switch (held.kind) {
    case "nothing":
      return guard.on === "sent" ? "Looks at a message as a whole." : "Holds no text back.";
    case "all":
      return "Holds the whole reply back until its judge has said something.";
    case "stretch":
      return "Holds text back for as long as the pattern goes on: it has no longest match.";
    case "words":
      return `Holds back what repeats the prompt, up to ${many(held.most, "word")}.`;
    case "characters":
      return `Holds back what can become a match, up to ${many(held.most, "character")}; nothing else waits.`;
  }
}
