import type { Dispatch } from "@/contract/dispatches";
import { count } from "../shared/format";
import { wordsFor } from "../shared/reasons";
import styles from "./DispatchSheet.module.css";

/** The itemised reach of the dispatch. */
export function Ledger({ dispatch: { ledger, usage } }: { dispatch: Dispatch }) {
  if (!ledger) return null;
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
          {ledger.entries.map((entry, at) => (
            <tr key={at} data-out={!entry.carried}>
              <td>{nameOf(entry)}</td>
              <td>{count(entry.tokens)}</td>
              <td>{entry.carried ? "in" : "out"}</td>
              <td>{wordsFor(entry.reason)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={styles.quiet}>
        About {count(ledger.tokens)} tokens in a window of {count(ledger.window)}, as estimated before it was sent
        {usage && !usage.estimated ? `; the provider counted ${count(usage.input)}` : ""}.
      </p>
    </>
  );
}

type Entry = NonNullable<Dispatch["ledger"]>["entries"][number];

/** What a line of the ledger is about: a part with the beginning of its text, or how many messages it sums up. */
function nameOf(entry: Entry): string {
  if (entry.part === "prompt" || (entry.part === "messages" && entry.count === 1)) return entry.text;
  const [first, last] = entry.turns;
  return `Turns ${first} to ${last}, ${count(entry.count)} messages`;
}
