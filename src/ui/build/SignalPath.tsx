import { useEffect, useRef, useState } from "react";
import { isUnderWay } from "@/core/reply/reply";
import { useLayer } from "../shared/keys/use-layer";
import { readReplyOf } from "../shared/read-reply";
import { useLiveReply } from "../shared/use-live-reply";
import type { AppMessage } from "./conversation/conversation";
import styles from "./SignalPath.module.css";
import type { Mark, Station, StationScene } from "./stations/station";
import { stations } from "./stations/stations";

interface Props {
  scene: StationScene;
  /** The station that is open. */
  open: Station | null;
  onOpen: (station: Station | null) => void;
}

/** The way of a message through the app, as six stations on one line. */
export function SignalPath({ scene, open, onOpen }: Props) {
  const { last } = scene;
  return (
    <>
      {last ? <LivePath {...{ scene, open, onOpen, last }} /> : <Path {...{ scene, open, onOpen }} marks={[]} />}
      {open && <Panel key={open.name} station={open} scene={scene} onClose={() => onOpen(null)} />}
    </>
  );
}

/** A station that is open: its settings, edited where they stand. */
function Panel({ station, scene, onClose }: { station: Station; scene: StationScene; onClose: () => void }) {
  const panel = useRef<HTMLElement>(null);
  useLayer(panel, onClose);
  return (
    <section className={styles.panel} id="station" aria-label={station.name} ref={panel}>
      <station.Sentence {...scene} />
    </section>
  );
}

/** The path with the times and the state of the last reply on it. */
function LivePath({ scene, open, onOpen, last }: Props & { last: AppMessage }) {
  const reply = useLiveReply(readReplyOf(last));
  const waited = useWaited(isUnderWay(reply.state) && reply.pieces.length === 0);
  const marks = stations.map((station) => station.mark({ facts: last.facts, reply, waited }));
  return <Path {...{ scene, open, onOpen, marks }} />;
}

/** Milliseconds since waiting began, counted ten times a second. */
function useWaited(isWaiting: boolean): number {
  const [waited, setWaited] = useState(0);
  useEffect(() => {
    if (!isWaiting) return;
    const began = performance.now();
    setWaited(0);
    const timer = setInterval(() => setWaited(performance.now() - began), 100);
    return () => clearInterval(timer);
  }, [isWaiting]);
  return waited;
}

function Path({ scene, open, onOpen, marks }: Props & { marks: Mark[] }) {
  // the line is filled up to the last station that something came to
  const reached = Math.max(
    marks.findLastIndex(({ state }) => state !== undefined),
    0,
  );
  const share = { "--reached": reached / (stations.length - 1) } as React.CSSProperties;
  return (
    <ol className={styles.path} style={share} aria-label="Signal path">
      {stations.map((station, at) => {
        const { state, before, time, reading } = marks[at] ?? {};
        return (
          <li key={station.name} className={styles.station} data-state={state}>
            <button
              type="button"
              aria-expanded={open === station}
              aria-controls="station"
              aria-keyshortcuts={`Alt+${at + 1}`}
              data-focus={`station ${station.name}`}
              onClick={() => onOpen(open === station ? null : station)}
            >
              <b>{station.name}</b>{" "}
              <span className={styles.time}>
                {time && before && <span className={styles.before}>{before}</span>}
                {time}
              </span>
              <span className={styles.reading}>{reading ?? station.reading(scene)}</span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}
