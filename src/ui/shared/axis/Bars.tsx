import styles from "./axis.module.css";
import { pathOf } from "./buckets";

/** Height of the box that bars are drawn in; a style sheet makes it as high as it is shown. */
const height = 12;

/** How much came in each of some equal stretches of time, as bars: one path, however many they are. */
export function Bars({ buckets, label }: { buckets: readonly number[]; label: string }) {
  return (
    <svg
      className={styles.bars}
      viewBox={`0 0 ${Math.max(buckets.length, 1)} ${height}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={label}
    >
      <path d={pathOf(buckets, height)} />
    </svg>
  );
}
