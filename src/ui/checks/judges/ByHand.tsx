import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { type KeyboardEvent, useState } from "react";
import { type JudgedByHand, judges } from "@/contract/judges";
import type { Verdict } from "@/core/checks/rubric";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { keyIn } from "../../shared/keys/table";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";
import styles from "./judges.module.css";

/** Replies that the developer judges by a rubric. What the judge says of one is shown once it was judged by hand. */
export function ByHand({
  slug,
  rubric,
  asked,
}: {
  slug: string;
  rubric: string;
  /** How far the judge was asked: what it said is read again when that changes. */
  asked: string | undefined;
}) {
  const { data, error } = useQuery({
    queryKey: [...keys.judges(slug), "replies", rubric, asked],
    queryFn: () => server.send(judges.replies, { slug, rubric }),
    placeholderData: (before) => before,
    staleTime: 0,
  });
  const judging = useChange(
    "The judgement",
    ({ message, reply, verdict }: { message: string; reply: string; verdict: Verdict | null }) =>
      server.send(judges.byHand, { slug, body: { rubric, message, reply, verdict } }),
    [keys.judges(slug)],
  );
  const problem = error?.problem ?? judging.problem;
  return (
    <section aria-label={`Replies to be judged by “${rubric}”`}>
      {problem && <ProblemNote problem={problem} />}
      <OwnReply onJudge={(own, verdict) => judging.run({ message: "", reply: own, verdict })} />
      <ol className={styles.replies}>
        {(data?.replies ?? []).map((reply) => (
          <JudgedRow
            key={`${reply.message}\n${reply.reply}`}
            of={reply}
            onJudge={(verdict) => judging.run({ message: reply.message, reply: reply.reply, verdict })}
          />
        ))}
      </ol>
    </section>
  );
}

function JudgedRow({
  of: { message, reply, byHand, judge },
  onJudge,
}: {
  of: JudgedByHand;
  onJudge: (verdict: Verdict | null) => void;
}) {
  const toggle = (verdict: Verdict) => onJudge(byHand === verdict ? null : verdict);
  const onKeyDown = (event: KeyboardEvent) => {
    const pressed = keyIn("verdict", event.nativeEvent)?.id;
    if (!pressed) return;
    toggle(pressed);
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <li onKeyDown={onKeyDown} data-verdict={byHand ?? undefined}>
      {message !== "" && <p className={styles.asked}>{message}</p>}
      <p>{reply}</p>
      <div className={styles.acts}>
        <Action aria-pressed={byHand === "meets"} onClick={() => toggle("meets")}>
          meets it
        </Action>
        <Action aria-pressed={byHand === "misses"} onClick={() => toggle("misses")}>
          misses it
        </Action>
        {judge && (
          <span>
            the judge: {judge.verdict === null ? "no verdict" : judge.verdict === "meets" ? "meets it" : "misses it"}
            {judge.verdict !== byHand && <b className={styles.apart}> (not as you)</b>}. {judge.words}
          </span>
        )}
      </div>
    </li>
  );
}

/** A reply that the developer writes, to have enough that miss a rubric. */
function OwnReply({ onJudge }: { onJudge: (reply: string, verdict: Verdict) => void }) {
  const [text, setText] = useState("");
  const judge = (verdict: Verdict) => {
    onJudge(text, verdict);
    setText("");
  };
  return (
    <div className={styles.own}>
      <Input.TextArea
        aria-label="A reply of your own"
        autoSize={{ minRows: 1, maxRows: 4 }}
        placeholder="A reply of your own, where trials gave too few of a kind"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button size="small" disabled={text.trim() === ""} onClick={() => judge("meets")}>
        It meets it
      </Button>
      <Button size="small" disabled={text.trim() === ""} onClick={() => judge("misses")}>
        It misses it
      </Button>
    </div>
  );
}
