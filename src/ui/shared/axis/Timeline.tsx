import type { LaneTrack, Wait } from "@/core/comparing/track";
import { duration } from "../format";
import { bucketsOf, pathOf } from "./buckets";
import styles from "./Timeline.module.css";
import { ticksOf } from "./ticks";

/** Buckets of a track: about one for three pixels of it. */
const shownBuckets = 300;
const height = 12;
/** Letters of an ending for which the axis has room behind its end. */
const shortWord = 10;

/** The moments of a time axis that several tracks stand on. @param end milliseconds that it is long */
export function Ruler({ end }: { end: number }) {
  return (
    <div className={styles.ruler} aria-hidden="true">
      {ticksOf(end).map((at) => (
        <span key={at} style={{ left: `${(at / end) * 100}%` }}>
          {at < 1_000 ? `${at} ms` : `${at / 1_000} s`}
        </span>
      ))}
    </div>
  );
}

/**
 * A track on that axis: what was waited for, when text and thoughts came, and the end.
 * @param now milliseconds up to which a track under way has come
 */
export function Timeline({
  track,
  end,
  now,
  ending,
  isThin,
}: {
  track: LaneTrack;
  end: number;
  now?: number;
  /** How it ended, in a word; nothing while it has not. */
  ending?: { word: string; tone: "quiet" | "caution" | "bad" };
  /** Whether it is shrunk to a line, since one reads what came of it. */
  isThin: boolean;
}) {
  const { waits, arrivals } = track;
  const at = (moment: number) => `${(Math.min(moment, end) / end) * 100}%`;
  const texts = bucketsOf(
    arrivals.map((each) => ({ at: each.at, size: each.text })),
    end,
    shownBuckets,
  );
  const thoughts = bucketsOf(
    arrivals.map((each) => ({ at: each.at, size: each.thought })),
    end,
    shownBuckets,
  );
  const most = Math.max(...texts, ...thoughts, 0);
  const over = track.end ?? now ?? 0;
  return (
    <div className={styles.track} data-thin={isThin} role="img" aria-label={wordsOf(track)}>
      {ticksOf(end).map((tick) => (
        <i key={tick} className={styles.tick} style={{ left: at(tick) }} />
      ))}
      {waits.map(({ for: what, from, to, isInVain }, place) => (
        <i
          key={place}
          className={styles.wait}
          data-for={what}
          data-vain={isInVain}
          style={{ left: at(from), width: `${((Math.min(to, end) - Math.min(from, end)) / end) * 100}%` }}
        />
      ))}
      <svg viewBox={`0 0 ${shownBuckets} ${height}`} preserveAspectRatio="none" aria-hidden="true">
        <path className={styles.thought} d={pathOf(thoughts, height, 0.7, most)} />
        <path className={styles.text} d={pathOf(texts, height, 0.7, most)} />
      </svg>
      {ending && (
        <span
          className={styles.ending}
          data-tone={ending.tone}
          data-late={over / end > (ending.word.length > shortWord ? 0.7 : 0.9)}
          style={{ left: at(over) }}
        >
          {ending.word}
        </span>
      )}
    </div>
  );
}

const waitWords: Record<Wait["for"], string> = {
  place: "waited for a place",
  text: "waited for text",
  try: "waited to try again",
};

/** A track in words, for those who do not see it. */
function wordsOf({ waits, arrivals, end }: LaneTrack): string {
  const [first, last] = [arrivals[0]?.at, arrivals.at(-1)?.at];
  const said = [
    ...waits.map(
      ({ for: what, from, to, isInVain }) =>
        `${waitWords[what]} for ${duration(to - from)}${isInVain ? ", in vain" : ""}`,
    ),
    first === undefined || last === undefined
      ? "no text came"
      : `text came from ${duration(first)} to ${duration(last)}`,
    end === null ? "under way" : `ended after ${duration(end)}`,
  ];
  return said.join("; ");
}
