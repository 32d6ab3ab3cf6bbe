import type { LedgerEntry } from "@/core/context/ledger";
import { count, many } from "../format";
import { longWords } from "../wording/parts";
import { wordsOfPassage } from "../wording/places";
import { wordsFor } from "../wording/reasons";
import styles from "./LedgerTable.module.css";

/** A line of the ledger, with the beginning of the text that it is about. */
export type ShownEntry = LedgerEntry & { text?: string };

/** The itemised reach of a dispatch, sent or still to be sent. */
export function LedgerTable({ entries, children }: { entries: readonly ShownEntry[]; children: React.ReactNode }) {
  return (
    <>
      <table className={styles.ledger}>
        <thead>
          <tr>
            <th scope="col">What</th>
            <th scope="col">Tokens</th>
            <th scope="col">In or out</th>
            <th scope="col">Why</th>
          </tr>
        </thead>
        <tbody>
          {entries.map((entry, at) => (
            <tr key={at} data-out={!entry.carried}>
              <td>{nameOf(entry)}</td>
              <td>{count(entry.tokens)}</td>
              <td>{entry.carried ? "in" : "out"}</td>
              <td>{wordsFor(entry.reason)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={styles.quiet}>{children}</p>
    </>
  );
}

/** What a line of the ledger is about: a part, the beginning of a message, or how many it sums up. */
function nameOf(entry: ShownEntry): string {
  switch (entry.part) {
    case "beside":
      return longWords(entry.kind, entry.count);
    case "passage":
      return `Passage ${entry.rank}, ${wordsOfPassage(entry)}${entry.mark ? ` [${entry.mark}]` : ""}`;
    case "summary":
      return entry.turn === 0 ? "Summary" : `Summary of the turns up to ${entry.turn}`;
    case "pin":
      return `Pinned turn ${entry.turns[0]}${entry.text ? `: ${entry.text}` : ""}`;
    case "messages":
      if (entry.count === 1) return entry.text ? entry.text : `Turn ${entry.turns[0]}`;
  }
  const [first, last] = entry.turns;
  const which = first === last ? `Turn ${first}` : `Turns ${first} to ${last}`;
  return `${which}, ${many(entry.count, "message")}`;
}
