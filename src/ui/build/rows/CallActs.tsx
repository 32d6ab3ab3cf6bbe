import { Button, Checkbox, Input } from "antd";
import { useState } from "react";
import { benchReplies, type SaidToCall } from "@/contract/replies";
import type { ToolPiece } from "@/core/conversation/pieces";
import { server } from "../../shared/api";
import { ProblemNote } from "../../shared/ProblemNote";
import { useChange } from "../../shared/use-change";
import styles from "./CallActs.module.css";

/** What is said to a call of a tool that waits: whether it may be made, or its answer by hand, in its caller's place too. */
export function CallActs({ reply, piece }: { reply: string; piece: ToolPiece }) {
  const { call, name, waitsFor } = piece;
  const [answer, setAnswer] = useState("");
  const [hasFailed, setFailed] = useState(false);
  const saying = useChange("What you said", (body: SaidToCall) =>
    server.send(benchReplies.sayToCall, { id: reply, call, body }),
  );
  if (waitsFor === "leave")
    return (
      <fieldset className={styles.acts} aria-label={`May ${name} be called?`}>
        <span>May it be called?</span>
        <Button size="small" type="primary" disabled={saying.isRunning} onClick={() => saying.run({ allow: true })}>
          Allow it
        </Button>
        <Button size="small" disabled={saying.isRunning} onClick={() => saying.run({ allow: false })}>
          Decline
        </Button>
        {saying.problem && <ProblemNote problem={saying.problem} />}
      </fieldset>
    );
  if (waitsFor === undefined) return null;
  return (
    <fieldset className={styles.acts} aria-label={`Answer ${name} by hand`}>
      <Input.TextArea
        aria-label={`Answer of ${name}`}
        placeholder={`what ${name} answers`}
        autoSize={{ minRows: 1, maxRows: 8 }}
        value={answer}
        onChange={(event) => setAnswer(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || event.shiftKey || event.nativeEvent.isComposing) return;
          event.preventDefault();
          saying.run({ answer, failed: hasFailed });
        }}
      />
      <Checkbox checked={hasFailed} onChange={({ target }) => setFailed(target.checked)}>
        it could not be done
      </Checkbox>
      <Button
        size="small"
        type="primary"
        disabled={saying.isRunning}
        onClick={() => saying.run({ answer, failed: hasFailed })}
      >
        Answer
      </Button>
      {saying.problem && <ProblemNote problem={saying.problem} />}
    </fieldset>
  );
}
