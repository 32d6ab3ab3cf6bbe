import { Button, Input } from "antd";
import Link from "next/link";
import { useRef, useState } from "react";
import { guards, longestText, mostTexts, type Tried } from "@/contract/guards";
import type { Guard } from "@/core/guards/guard";
import type { Place } from "@/core/guards/trying";
import type { Problem } from "@/core/problem/problem";
import { Action } from "../../shared/Action";
import { problemIn, server } from "../../shared/api";
import { count, many } from "../../shared/format";
import { ProblemNote } from "../../shared/ProblemNote";
import styles from "./Guards.module.css";

/** Messages that are listed of those in which something was found. */
const mostListed = 100;

interface Sum extends Tried {
  isOver: boolean;
}

const nothingYet: Sum = { conversations: 0, messages: 0, hits: 0, found: [], before: null, isOver: false };

/** Tries a rule before it is switched on: on conversations that are stored, and on texts that it should catch. */
export function TryGuard({ app, guard }: { app: string; guard: Guard }) {
  const [sum, setSum] = useState<Sum>();
  const [problem, setProblem] = useState<Problem>();
  const [isUnderWay, setUnderWay] = useState(false);
  const isWanted = useRef(false);
  const goOn = async (from: Sum) => {
    isWanted.current = true;
    setUnderWay(true);
    setProblem(undefined);
    let all = from;
    setSum(all);
    try {
      do {
        const { before } = all;
        const next = await server.send(guards.tryOn, { slug: app, body: { guard, before } });
        all = {
          conversations: all.conversations + next.conversations,
          messages: all.messages + next.messages,
          hits: all.hits + next.hits,
          found: [...all.found, ...next.found].slice(0, mostListed),
          before: next.before,
          isOver: next.before === null,
        };
        setSum(all);
      } while (isWanted.current && !all.isOver);
    } catch (error) {
      setProblem(problemIn(error, "Trying the guard"));
    }
    isWanted.current = false;
    setUnderWay(false);
  };
  const side = guard.on === "sent" ? "message" : "reply";
  const sides = guard.on === "sent" ? "messages" : "replies";
  return (
    <section className={styles.try} aria-label={`Trying ${guard.name}`}>
      <div className={styles.tryHead}>
        {isUnderWay ? (
          <Action
            onClick={() => {
              isWanted.current = false;
            }}
          >
            stop
          </Action>
        ) : (
          <Action onClick={() => void goOn(sum && !sum.isOver ? sum : nothingYet)}>
            {sum && !sum.isOver ? "go on" : `try it on stored ${sides}`}
          </Action>
        )}
        {sum && (
          <span role="status">
            It finds something in <b>{many(sum.hits, side, sides)}</b> of {count(sum.messages)}, in{" "}
            {many(sum.conversations, "conversation")}
            {sum.isOver ? ", all that there are" : isUnderWay ? "…" : " so far"}. No model was asked.
          </span>
        )}
      </div>
      {problem && <ProblemNote problem={problem} />}
      {sum && sum.found.length > 0 && (
        <ol className={styles.places}>
          {sum.found.map(({ conversation, message, places }) => (
            <li key={message}>
              <span>
                {places.map((place, at) => (
                  <Found key={at} place={place} />
                ))}
              </span>
              <Link href={`/apps/${app}/build?conversation=${conversation}`}>open</Link>
            </li>
          ))}
        </ol>
      )}
      <Texts app={app} guard={guard} />
    </section>
  );
}

function Found({ place: { before, found, after } }: { place: Place }) {
  return (
    <span className={styles.place}>
      {before}
      <mark>{found}</mark>
      {after}
    </span>
  );
}

/** Texts that a rule should catch: how many of them it does, and which it misses. */
function Texts({ app, guard }: { app: string; guard: Guard }) {
  const [isOpen, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [came, setCame] = useState<{ texts: string[]; caught: boolean[] }>();
  const [problem, setProblem] = useState<Problem>();
  const lines = text
    .split("\n")
    .map((line) => line.trim().slice(0, longestText))
    .filter(Boolean);
  const texts = lines.slice(0, mostTexts);
  const run = async () => {
    setProblem(undefined);
    try {
      const { texts: tried } = await server.send(guards.tryTexts, { slug: app, body: { guard, texts } });
      setCame({ texts, caught: tried.map(({ places }) => places.length > 0) });
    } catch (error) {
      setProblem(problemIn(error, "Trying the guard"));
    }
  };
  const missed = came?.texts.filter((_, at) => !came.caught[at]) ?? [];
  return (
    <>
      <Action aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        texts that it should catch
      </Action>
      {isOpen && (
        <form
          className={styles.texts}
          onSubmit={(event) => {
            event.preventDefault();
            if (texts.length > 0) void run();
          }}
        >
          <Input.TextArea
            autoFocus
            aria-label="Texts that it should catch, one a line"
            placeholder="one a line"
            autoSize={{ minRows: 2, maxRows: 8 }}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <Button size="small" htmlType="submit" disabled={texts.length === 0}>
            Look at {many(texts.length, "text")}
          </Button>
          {lines.length > mostTexts && <small>The first {mostTexts} are looked at.</small>}
        </form>
      )}
      {problem && <ProblemNote problem={problem} />}
      {came && (
        <div role="status">
          It catches <b>{came.texts.length - missed.length}</b> of {came.texts.length}
          {missed.length > 0 ? "; it misses:" : "."}
          {missed.length > 0 && (
            <ul className={styles.places}>
              {missed.map((each) => (
                <li key={each}>{each}</li>
              ))}
            </ul>
          )}
        </div>
      )}
    </>
  );
}
