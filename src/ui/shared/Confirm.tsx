import { Modal } from "antd";
import { type ReactNode, useRef, useState } from "react";
import type { Problem } from "@/core/problem/problem";
import { Action } from "./Action";
import { giveFocus } from "./keys/use-focus-kept";
import { ProblemNote } from "./ProblemNote";

interface Asked {
  question: string;
  /** What goes with it. */
  says?: ReactNode;
  /** What it does, as its button says it. */
  does: string;
  /** Does it; false where it was not done, so that the question stays with why. */
  onDo: () => Promise<boolean> | undefined;
  problem?: Problem;
}

/** Asks once before something is done that can't be undone. */
function Confirm({ question, says, does, onDo, problem, onClose }: Asked & { onClose: () => void }) {
  const [isDoing, setDoing] = useState(false);
  const submit = async () => {
    setDoing(true);
    const isDone = await onDo();
    setDoing(false);
    if (isDone !== false) onClose();
  };
  return (
    <Modal
      open
      title={question}
      okText={does}
      cancelText="Keep it"
      okButtonProps={{ danger: true, type: "default", loading: isDoing }}
      onOk={() => void submit()}
      onCancel={onClose}
      width={420}
    >
      {says && <p>{says}</p>}
      {problem && <ProblemNote problem={problem} />}
    </Modal>
  );
}

/** A word that does something for good, once that was asked. */
export function ConfirmAction({
  children,
  "aria-label": label,
  ...asked
}: Asked & { children: ReactNode; "aria-label"?: string }) {
  const [isOpen, setOpen] = useState(false);
  const opener = useRef<HTMLButtonElement>(null);
  const close = () => {
    const { current } = opener;
    setOpen(false);
    // once the dialog is gone, which had it
    requestAnimationFrame(() => giveFocus(current));
  };
  return (
    <>
      <Action ref={opener} aria-label={label} aria-haspopup="dialog" onClick={() => setOpen(true)}>
        {children}
      </Action>
      {isOpen && <Confirm {...asked} onClose={close} />}
    </>
  );
}
