import { Button } from "antd";
import dynamic from "next/dynamic";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { branches } from "@/contract/branches";
import { addressFor } from "@/contract/call";
import type { Stretch } from "@/contract/conversations";
import { exports } from "@/contract/exports";
import { benchMarks } from "@/contract/marks";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { many } from "../shared/format";
import { LinesValue } from "../shared/inline/LinesValue";
import { TextValue } from "../shared/inline/TextValue";
import { useKeys } from "../shared/keys/use-keys";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { useMakeCheck } from "../shared/use-make-check";
import styles from "./Reading.module.css";

const SayAgainSentence = dynamic(() => import("../shared/jobs/SayAgainSentence"), { ssr: false });

/** What is done with a conversation, and what is written on it. */
export function ReadingFooter({
  slug,
  conversation,
  through,
  about: { title, opening, note, tags, turns },
  onDelete,
}: {
  slug: string;
  conversation: string;
  through: string | undefined;
  about: Stretch;
  onDelete: () => void;
}) {
  const router = useRouter();
  const [isAgain, setAgain] = useState(false);
  const writing = useChange(
    "Writing on it",
    (body: { title?: string | null; note?: string; tags?: string[] }) =>
      server.send(benchMarks.write, { id: conversation, body }),
    [keys.conversations(slug), keys.line(conversation)],
  );
  const going = useChange("Going on", async () => {
    if (through !== undefined) await server.send(branches.show, { id: through });
    router.push(`/apps/${slug}/build?conversation=${conversation}`);
  });
  const making = useMakeCheck(slug, conversation);
  useKeys("reading", { check: () => making.run(undefined) });
  const problem = writing.problem ?? going.problem ?? making.problem;
  return (
    <div className={styles.footer}>
      {problem && <ProblemNote problem={problem} />}
      <div className={styles.actions}>
        <Button type="primary" onClick={() => going.run()}>
          Continue from here
        </Button>
        <span>
          called{" "}
          <TextValue
            label="Title"
            value={title ?? ""}
            placeholder={opening.slice(0, 40) || "nothing"}
            onChange={(next) => writing.run({ title: next.trim() === "" ? null : next.trim().slice(0, 160) })}
          />
          , tagged{" "}
          <TextValue
            label="Tags, with commas between"
            value={tags.join(", ")}
            placeholder="with nothing"
            onChange={(next) => writing.run({ tags: tagsIn(next) })}
          />
        </span>
        {!isAgain && <Button onClick={() => setAgain(true)}>Say it again on the draft</Button>}
        <Action onClick={() => making.run(undefined)}>make a check</Action>
        <a href={addressFor(exports.history, { slug, as: "jsonl", ids: conversation })} download>
          export
        </a>
        <Action onClick={onDelete}>delete</Action>
        <span className={styles.quiet}>{many(turns, "turn")}</span>
      </div>
      {isAgain && <SayAgainSentence {...{ conversation, through }} onClose={() => setAgain(false)} />}
      <div className={styles.note}>
        <LinesValue
          label="Note"
          placeholder="a note for whoever works on this"
          rows={[1, 6]}
          maxLength={20_000}
          value={note}
          onChange={(next) => writing.run({ note: next })}
        />
      </div>
    </div>
  );
}

function tagsIn(text: string): string[] {
  const tags = text.split(",").map((tag) => tag.trim().slice(0, 40));
  return [...new Set(tags.filter((tag) => tag !== ""))].slice(0, 20);
}
