import { Button, Input } from "antd";
import { useRef, useState } from "react";
import { Action } from "../../shared/Action";
import { useLayer } from "../../shared/keys/use-layer";
import styles from "../../shared/sheet/sheet.module.css";

/** A text of a row that is written anew. It stays open, with what was typed, until it was taken or put aside. */
export function EditText({
  name,
  label,
  text: before,
  does,
  onDone,
  onClose,
}: {
  /** By what the focus finds back to what opened it. */
  name: string;
  label: string;
  text: string;
  /** What the button does. */
  does: string;
  /** Gives whether it was taken. */
  onDone: (text: string) => Promise<boolean>;
  onClose: () => void;
}) {
  const [text, setText] = useState(before);
  const [isSending, setSending] = useState(false);
  const root = useRef<HTMLDivElement>(null);
  useLayer(root, onClose);
  const canSend = text.trim() !== "" && !isSending;
  const send = async () => {
    if (!canSend) return;
    setSending(true);
    const wasTaken = await onDone(text);
    setSending(false);
    if (wasTaken) onClose();
  };
  return (
    <div className={styles.edit} ref={root} data-focus={name}>
      <Input.TextArea
        aria-label={label}
        autoFocus
        autoSize={{ minRows: 1, maxRows: 18 }}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || event.shiftKey || event.nativeEvent.isComposing) return;
          event.preventDefault();
          event.stopPropagation();
          void send();
        }}
      />
      <div className={styles.links}>
        <Button size="small" type="primary" disabled={!canSend} onClick={() => void send()}>
          {does}
        </Button>
        <Action onClick={onClose}>cancel</Action>
      </div>
    </div>
  );
}
