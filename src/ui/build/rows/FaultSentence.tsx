import { useRef } from "react";
import { Action } from "../../shared/Action";
import { useLayer } from "../../shared/keys/use-layer";
import styles from "../../shared/sheet/sheet.module.css";
import { useRowScene } from "../scene";
import { sourcesIn, useSources } from "../sources/use-sources";

/** Chooses the document that a reply should have answered from: what it should have is then pointed at there. */
export function FaultSentence({ reply, name, onClose }: { reply: string; name: string; onClose: () => void }) {
  const { slug, openDocument } = useRowScene();
  const all = sourcesIn(useSources(slug));
  const root = useRef<HTMLDivElement>(null);
  useLayer(root, onClose);
  return (
    <div className={styles.edit} ref={root} data-focus={name}>
      It should have answered from{" "}
      {all.map(({ id, title }, at) => (
        <span key={id}>
          {at > 0 && ", "}
          <Action
            autoFocus={at === 0}
            onClick={() => {
              onClose();
              openDocument({ source: id, title, reply });
            }}
          >
            {title}
          </Action>
        </span>
      ))}
      : point at it there, and you are told what went wrong with it. <Action onClick={onClose}>cancel</Action>
    </div>
  );
}
