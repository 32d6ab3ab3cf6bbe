import { Button, Input } from "antd";
import { useState } from "react";
import { addressFor } from "@/contract/call";
import { type Duet, duets } from "@/contract/duets";
import { mostRounds, type Side } from "@/core/comparing/duet/duet";
import composer from "../../shared/composer.module.css";
import { count, many, price } from "../../shared/format";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { NumberValue } from "../../shared/inline/NumberValue";
import { keyIn } from "../../shared/keys/table";
import { ProblemNote } from "../../shared/ProblemNote";
import { keptTexts, useKeptText } from "../../shared/use-kept-text";
import { endingWords } from "./ending-words";

/** Rounds that a duet goes on for, unless that is said otherwise. */
const further = 5;

/** How far a duet is, what it came to, and what can be said into it. */
export function DuetFoot({
  slug,
  duet,
  names,
  isBusy,
  onStop,
  onResume,
  onPutIn,
}: {
  slug: string;
  duet: Duet;
  names: readonly string[];
  isBusy: boolean;
  onStop: () => void;
  onResume: (rounds: number) => void;
  onPutIn: (to: Side[], text: string) => void;
}) {
  const { id, ended, rounds, utterances, circles, circleAt } = duet;
  const textName = `finch.duet.${id}`;
  const text = useKeptText(textName);
  const [to, setTo] = useState<"both" | "0" | "1">("both");
  const [more, setMore] = useState(further);
  const most = mostRounds - Math.ceil(utterances.length / 2);
  const putIn = () => {
    if (text.trim() === "" || isBusy) return;
    onPutIn(to === "both" ? [0, 1] : [to === "0" ? 0 : 1], text);
    keptTexts.write(textName, "");
  };
  const resume = () => onResume(Math.ceil(utterances.length / 2) + Math.min(more, most));
  return (
    <div className={composer.composer}>
      {ended?.kind === "failed" && <ProblemNote problem={ended.problem} />}
      <div className={composer.write} data-focus="home">
        <Input.TextArea
          aria-label="A word that is put in"
          variant="borderless"
          autoSize={{ minRows: 1, maxRows: 6 }}
          placeholder="Put a word in: it is told with what the other says next"
          value={text}
          onChange={(event) => keptTexts.write(textName, event.target.value)}
          onKeyDown={(event) => {
            if (event.nativeEvent.isComposing || keyIn("message", event.nativeEvent)?.id !== "send") return;
            putIn();
            event.preventDefault();
            event.stopPropagation();
          }}
        />
        <Button disabled={text.trim() === "" || isBusy} onClick={putIn}>
          Put it in
        </Button>
        {ended ? (
          <Button type="primary" disabled={most < 1 || isBusy} onClick={resume}>
            Continue
          </Button>
        ) : (
          <Button type="primary" onClick={onStop}>
            Stop
          </Button>
        )}
      </div>
      <div className={composer.cost}>
        <span>
          told to{" "}
          <ChoiceValue
            label="Who is told it"
            value={to}
            options={[
              { value: "both", label: "both" },
              { value: "0", label: names[0] ?? "" },
              { value: "1", label: names[1] ?? "" },
            ]}
            onChange={setTo}
          />
        </span>
        <span>
          round <b>{Math.ceil(utterances.length / 2)}</b> of {rounds}
        </span>
        <span>
          in circles <b>{Math.round(circles * 100)}%</b>, ends at {Math.round(circleAt * 100)}%
        </span>
        <span>
          <b>{count(duet.tokens)}</b> tokens, <b>{price(duet.price, duet.currency)}</b>
        </span>
        {ended && most > 0 && (
          <span>
            continues for{" "}
            <NumberValue
              label="Further rounds"
              value={more}
              min={1}
              max={most}
              onChange={(next) => setMore(next ?? 1)}
            />{" "}
            {more === 1 ? "round" : "rounds"}
          </span>
        )}
        <span>
          <a href={addressFor(duets.file, { id, as: "markdown" })} download={`${slug}-duet.md`}>
            Markdown
          </a>
          ,{" "}
          <a href={addressFor(duets.file, { id, as: "jsonl" })} download={`${slug}-duet.jsonl`}>
            JSON Lines
          </a>
        </span>
      </div>
      <p className="unseen" role="status">
        {ended ? endingWords(ended, rounds) : `${many(utterances.length, "utterance")}`}
      </p>
    </div>
  );
}
