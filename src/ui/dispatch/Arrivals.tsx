import { useState } from "react";
import type { Dispatch } from "@/contract/dispatches";
import { Action } from "../shared/Action";
import { type Track, Tracks } from "../shared/axis/Tracks";
import { count, duration } from "../shared/format";
import styles from "./DispatchSheet.module.css";

/** When what arrived did so, at the server and at this browser, on one axis. */
export function Axes({ dispatch: { arrivals, ms, reader } }: { dispatch: Dispatch }) {
  if (arrivals.length === 0) return null;
  const end = Math.max(ms ?? 0, arrivals.at(-1)?.at ?? 0);
  const atServer: Track = { label: "At the server", moments: arrivals, end };
  const read = reader?.map(([at, size]) => ({ at, size })) ?? [];
  const atBrowser: Track = { label: "At this browser", moments: read, end: Math.max(end, read.at(-1)?.at ?? 0) };
  return <Tracks tracks={read.length > 0 ? [atServer, atBrowser] : [atServer]} />;
}

const shownAtOnce = 120;

/** What arrived, each part beside what was read from it. */
export function Arrivals({ dispatch: { arrivals, isThinned, notes, bytes } }: { dispatch: Dispatch }) {
  const [all, setAll] = useState(false);
  if (notes.some(({ kind }) => kind === "secret-in-pieces"))
    return (
      <p className={styles.quiet}>
        {count(bytes)} bytes came, and are not kept: a secret stood among them in pieces, or in another writing. The
        reply shows its text without it.
      </p>
    );
  if (notes.some(({ kind }) => kind === "guarded"))
    return (
      <p className={styles.quiet}>
        {count(bytes)} bytes came, and are not kept: a guard held back something that they say.
      </p>
    );
  if (isThinned) return <p className={styles.quiet}>Its bytes were thinned out: {count(bytes)} of them had come.</p>;
  if (arrivals.length === 0) return <p className={styles.quiet}>Nothing arrived.</p>;
  const shown = all ? arrivals : arrivals.slice(0, shownAtOnce);
  return (
    <>
      <table className={styles.arrivals}>
        <thead>
          <tr>
            <th scope="col">after</th>
            <th scope="col">as it came</th>
            <th scope="col">read as</th>
          </tr>
        </thead>
        <tbody>
          {shown.map(({ at, text, read }, place) => (
            <tr key={place}>
              <td>{duration(at)}</td>
              <td>
                <Part text={text.trimEnd()} />
              </td>
              <td>
                {read.length === 0 ? (
                  <span className={styles.quiet}>nothing</span>
                ) : (
                  read.map((each, line) => <div key={line}>{each}</div>)
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {shown.length < arrivals.length && (
        <Action onClick={() => setAll(true)}>show the other {count(arrivals.length - shown.length)}</Action>
      )}
    </>
  );
}

const longestPart = 600;

/** One arrival: the beginning of a long one, and all of it on request. */
function Part({ text }: { text: string }) {
  const [isWhole, setWhole] = useState(false);
  if (text.length <= longestPart || isWhole) return <code>{text}</code>;
  return (
    <>
      <code>{text.slice(0, longestPart)}…</code>{" "}
      <Action onClick={() => setWhole(true)}>all {count(text.length)} characters</Action>
    </>
  );
}
