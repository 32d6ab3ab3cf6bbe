import { barOf } from "@/core/context/bar";
import type { Forecast } from "@/core/context/forecast";
import { count } from "../format";
import { shortWords } from "../wording/parts";
import styles from "./WindowBar.module.css";

/** What a context window is filled with, in the order in which it is sent, and the room that is kept for the reply. */
export function WindowBar({ ahead, hasLegend = false }: { ahead: Forecast; hasLegend?: boolean }) {
  const { tokens, room } = ahead;
  const { window } = room;
  const parts = barOf(ahead, room).map(({ kind, tokens }) => ({ part: kind, name: shortWords(kind), tokens }));
  const share = (part: number) => `${Math.min((part / window) * 100, 100)}%`;
  const said = parts.map(({ name, tokens }) => `${name} ${count(tokens)}`).join(", ");
  return (
    <>
      <div className={styles.window} role="img" aria-label={`${count(tokens)} of ${count(window)} tokens: ${said}`}>
        {parts.map(({ part, tokens }) => (
          <i key={part} style={{ width: share(tokens) }} data-part={part} />
        ))}
      </div>
      {hasLegend && (
        <ul className={styles.legend}>
          {parts.map(({ part, name, tokens }) => (
            <li key={part}>
              <i data-part={part} />
              {name} <b>{count(tokens)}</b>
            </li>
          ))}
          <li>
            of <b>{count(window)}</b>
          </li>
        </ul>
      )}
    </>
  );
}
