import { useIsHeard } from "../shared/use-live-reply";
import styles from "./Bar.module.css";

/** Says that the server is not heard, for as long as that is so. */
export function Heard() {
  return (
    <span className={styles.heard} role="status">
      {!useIsHeard() && "not connected: what arrives is shown once the server answers again"}
    </span>
  );
}
