import type { Forecast } from "@/core/context/forecast";
import { count } from "../format";
import styles from "./WindowBar.module.css";

/** What a context window is filled with, in the order in which it is sent, and the room that is kept for the reply. */
export function WindowBar({
  prompt,
  opening,
  summary,
  pins,
  turns,
  message,
  tokens,
  room: { window, maxOutput = 0 },
  hasLegend = false,
}: Forecast & { hasLegend?: boolean }) {
  const pinned = [...pins.values()].reduce((sum, pin) => sum + (pin.carried ? pin.tokens : 0), 0);
  const parts = [
    { part: "prompt", name: "prompt", tokens: prompt },
    { part: "opening", name: "opening", tokens: opening?.carried ? opening.tokens : 0 },
    { part: "summary", name: "summary", tokens: summary?.carried ? summary.tokens : 0 },
    { part: "pins", name: "pinned", tokens: pinned },
    { part: "messages", name: "turns", tokens: turns.tokens },
    { part: "typed", name: "new message", tokens: message },
    { part: "reply", name: "kept for the reply", tokens: maxOutput },
  ].filter((each) => each.tokens > 0);
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
