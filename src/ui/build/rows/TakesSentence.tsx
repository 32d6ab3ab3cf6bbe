import { Button } from "antd";
import { useRef, useState } from "react";
import { mostTakes } from "@/contract/replies";
import { Action } from "../../shared/Action";
import { type ModelChoice, ModelValue } from "../../shared/inline/ModelValue";
import { NumberValue } from "../../shared/inline/NumberValue";
import { useLayer } from "../../shared/keys/use-layer";
import { useProviders } from "../../shared/queries";
import styles from "../../shared/sheet/sheet.module.css";
import type { WantedTakes } from "../conversation/acts";

/** Asks for further takes of a reply, in a sentence. */
export function TakesSentence({
  name,
  onAsk,
  onClose,
}: {
  /** By what the focus finds back to what opened it. */
  name: string;
  onAsk: (wanted: WantedTakes) => void;
  onClose: () => void;
}) {
  const providers = useProviders().data?.providers ?? [];
  const [count, setCount] = useState(1);
  const [by, setBy] = useState<ModelChoice>();
  const root = useRef<HTMLDivElement>(null);
  useLayer(root, onClose);
  const ask = () => {
    onAsk({ count, by });
    onClose();
  };
  return (
    <div className={styles.edit} ref={root} data-focus={name}>
      Ask for{" "}
      <NumberValue label="Takes" value={count} min={1} max={mostTakes} onChange={(next) => setCount(next ?? 1)} /> more
      by{" "}
      <ModelValue label="Model of the takes" providers={providers} value={by} none="the same model" onChange={setBy} />.{" "}
      <div className={styles.links}>
        <Button size="small" type="primary" autoFocus onClick={ask}>
          Ask
        </Button>
        <Action onClick={onClose}>cancel</Action>
      </div>
    </div>
  );
}
