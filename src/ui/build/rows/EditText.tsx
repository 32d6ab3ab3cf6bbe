import { Button, Input } from "antd";
import { useState } from "react";
import styles from "./Row.module.css";

/** A text of a row that is written anew. It stays open, with what was typed, until it was taken or put aside. */
export function EditText({
  label,
  text: before,
  does,
  onDone,
  onCancel,
}: {
  label: string;
  text: string;
  /** What the button does. */
  does: string;
  /** Gives whether it was taken. */
  onDone: (text: string) => Promise<boolean>;
  onCancel: () => void;
}) {
  const [text, setText] = useState(before);
  const [isSending, setSending] = useState(false);
  const canSend = text.trim() !== "" && !isSending;
  const send = async () => {
    if (!canSend) return;
    setSending(true);
    const wasTaken = await onDone(text);
    setSending(false);
    if (wasTaken) onCancel();
  };
  return (
    <div className={styles.edit}>
      <Input.TextArea
        aria-label={label}
        autoFocus
        autoSize={{ minRows: 1, maxRows: 18 }}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") {
            event.stopPropagation();
            event.preventDefault();
            onCancel();
          }
          if (event.key !== "Enter" || event.shiftKey || event.nativeEvent.isComposing) return;
          event.preventDefault();
          void send();
        }}
      />
      <div className={styles.links}>
        <Button size="small" type="primary" disabled={!canSend} onClick={() => void send()}>
          {does}
        </Button>
        <button type="button" className="link" onClick={onCancel}>
          cancel
        </button>
      </div>
    </div>
  );
}
