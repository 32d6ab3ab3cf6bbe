import { Button } from "antd";
import { useState } from "react";
import type { Provider } from "@/contract/providers";
import { type ModelChoice, ModelWord } from "../../shared/ModelWord";
import { NumberWord } from "../../shared/words";
import styles from "./Row.module.css";

/** What is wanted: so many takes, by the app's own model or by another. */
export interface WantedTakes {
  count: number;
  by: ModelChoice | undefined;
}

const most = 10;

/** Asks for further takes of a reply, in a sentence. */
export function TakeWords({
  providers,
  onAsk,
  onCancel,
}: {
  providers: Provider[];
  onAsk: (wanted: WantedTakes) => void;
  onCancel: () => void;
}) {
  const [count, setCount] = useState(1);
  const [by, setBy] = useState<ModelChoice>();
  const ask = () => {
    onAsk({ count, by });
    onCancel();
  };
  return (
    <div className={styles.edit}>
      Ask for <NumberWord label="Takes" value={count} min={1} max={most} onChange={(next) => setCount(next ?? 1)} />{" "}
      more by{" "}
      <ModelWord label="Model of the takes" providers={providers} value={by} none="the same model" onChange={setBy} />.{" "}
      <div className={styles.links}>
        <Button size="small" type="primary" autoFocus onClick={ask}>
          Ask
        </Button>
        <button type="button" className="link" onClick={onCancel}>
          cancel
        </button>
      </div>
    </div>
  );
}
