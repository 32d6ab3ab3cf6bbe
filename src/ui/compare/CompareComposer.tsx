import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { comparisons, type LaneAhead } from "@/contract/comparisons";
import type { Content } from "@/core/revision/content";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { inWords } from "../shared/candidate/candidate-words";
import styles from "../shared/composer.module.css";
import { count, price } from "../shared/format";
import { keyIn } from "../shared/keys/table";
import { ProblemNote } from "../shared/ProblemNote";
import { keptTexts, useKeptText } from "../shared/use-kept-text";

/** Milliseconds that what is typed rests before it is said what it would cost. */
const rest = 300;

interface Props {
  slug: string;
  /** Under what name what is typed is kept. */
  textName: string;
  lanes: readonly { content: Content; lane?: string; name: string }[];
  after: string | undefined;
  isArriving: boolean;
  isAsking: boolean;
  onAsk: (message: string) => void;
  onStop: () => void;
  onNew: (() => void) | undefined;
  children?: ReactNode;
}

/** Where the next message to all lanes is written, with what it would cost. */
export function CompareComposer(props: Props) {
  const { slug, textName, lanes, after, isArriving, isAsking, onAsk, onStop, onNew, children } = props;
  const text = useKeptText(textName);
  const ahead = useAhead(slug, lanes, after, text);
  const canAsk = text.trim() !== "" && !isAsking && !isArriving && lanes.length > 1;
  const area = useRef<{ focus: () => void }>(null);
  const ask = () => {
    if (!canAsk) return;
    onAsk(text);
    area.current?.focus();
  };
  return (
    <div className={styles.composer}>
      {children}
      {ahead?.map(
        ({ problem }, at) =>
          problem && (
            <ProblemNote
              key={lanes[at]?.name}
              problem={{ ...problem, detail: `${lanes[at]?.name}: ${problem.detail}` }}
            />
          ),
      )}
      <div className={styles.write} data-focus="home">
        <Input.TextArea
          ref={area as never}
          aria-label="Message to all lanes"
          variant="borderless"
          autoFocus
          autoSize={{ minRows: 1, maxRows: 8 }}
          placeholder="Write as a visitor would"
          value={text}
          onChange={(event) => keptTexts.write(textName, event.target.value)}
          onKeyDown={(event) => {
            if (event.nativeEvent.isComposing || keyIn("message", event.nativeEvent)?.id !== "send") return;
            ask();
            event.preventDefault();
            event.stopPropagation();
          }}
        />
        {isArriving && <Button onClick={onStop}>Stop all</Button>}
        <Button type="primary" disabled={!canAsk} onClick={ask}>
          {lanes.length === 2 ? "Ask both" : `Ask all ${inWords(lanes.length)}`}
        </Button>
      </div>
      <div className={styles.cost}>
        {ahead && <Cost ahead={ahead} />}
        {onNew && (
          <Action onClick={onNew} aria-keyshortcuts="Alt+N">
            a new comparison
          </Action>
        )}
      </div>
    </div>
  );
}

/** What a message to all lanes would cost. */
function Cost({ ahead }: { ahead: readonly LaneAhead[] }) {
  const sum = (of: (lane: LaneAhead) => number) => ahead.reduce((total, lane) => total + of(lane), 0);
  const isLimited = ahead.every(({ maxOutput }) => maxOutput !== null);
  const prices = ahead.flatMap((lane) => lane.price ?? []);
  const currency = prices[0]?.currency ?? "EUR";
  return (
    <>
      <span>
        about <b>{count(sum(({ tokens }) => tokens))}</b> tokens in,{" "}
        {isLimited ? (
          <>
            at most <b>{count(sum(({ maxOutput }) => maxOutput ?? 0))}</b>
          </>
        ) : (
          "any number"
        )}{" "}
        out
      </span>
      <span>
        {prices.length < ahead.length ? (
          "a price is not set"
        ) : (
          <>
            {isLimited ? "at most" : "from"}{" "}
            <b>
              {price(
                prices.reduce((total, { most }) => total + most, 0),
                currency,
              )}
            </b>{" "}
            for {ahead.length === 2 ? "both" : `all ${inWords(ahead.length)}`}
          </>
        )}
      </span>
    </>
  );
}

/** What a message would cost in each lane, once it was not typed in for a moment. */
function useAhead(slug: string, lanes: Props["lanes"], after: string | undefined, text: string) {
  const [typed, setTyped] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setTyped(text), rest);
    return () => clearTimeout(timer);
  }, [text]);
  const asked = lanes.map(({ content, lane }) => ({ content, ...(lane === undefined ? {} : { lane }) }));
  const { data } = useQuery({
    queryKey: ["lanes ahead", slug, asked, after, typed],
    queryFn: () => server.send(comparisons.ahead, { slug, body: { lanes: asked, after, typed } }),
    placeholderData: (before) => before,
    enabled: lanes.length > 0,
    gcTime: 10_000,
  });
  return data?.lanes;
}
