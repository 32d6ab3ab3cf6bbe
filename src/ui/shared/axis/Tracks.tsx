import { duration, many } from "../format";
import styles from "./axis.module.css";
import { Bars } from "./Bars";
import { bucketsOf, type Moment } from "./buckets";

/** What came where, over time. */
export interface Track {
  label: string;
  moments: readonly Moment[];
  /** Milliseconds after which it ended. */
  end: number;
}

/** Buckets of an axis: about one for three pixels of it. */
const shownBuckets = 320;

/** Tracks under each other on one time axis, which ends with the longest of them. */
export function Tracks({ tracks }: { tracks: readonly Track[] }) {
  const end = Math.max(...tracks.map((track) => track.end), 1);
  return (
    <div className={styles.tracks}>
      {tracks.map(({ label, moments, end: own }) => (
        <div key={label} className={styles.track}>
          <span>{label}</span>
          <div>
            <Bars buckets={bucketsOf(moments, end, shownBuckets)} label={wordsOf(label, moments)} />
            <i style={{ left: `${(own / end) * 100}%` }} />
          </div>
          <span>{duration(own)}</span>
        </div>
      ))}
    </div>
  );
}

function wordsOf(label: string, moments: readonly Moment[]): string {
  const [first, last] = [moments[0]?.at ?? 0, moments.at(-1)?.at ?? 0];
  return `${label}: ${many(moments.length, "arrival")} between ${duration(first)} and ${duration(last)}`;
}
