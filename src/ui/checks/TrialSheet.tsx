import { useQuery } from "@tanstack/react-query";
import dynamic from "next/dynamic";
import { useState } from "react";
import { checks, type WholeTrial } from "@/contract/checks";
import { type Expectation, tellJudged, writeExpectation } from "@/core/checks/expectations/expectations";
import { parseScript } from "@/core/checks/parse";
import { expectedIn } from "@/core/checks/script";
import { piecesOf } from "@/core/conversation/pieces";
import { Action } from "../shared/Action";
import { problemIn, server } from "../shared/api";
import { count, duration, price } from "../shared/format";
import { Pieces } from "../shared/markdown/Pieces";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { SheetRow, Who } from "../shared/sheet/SheetRow";
import { Unfolding } from "../shared/sheet/Unfolding";
import styles from "./Checks.module.css";

const DispatchSheet = dynamic(() => import("../dispatch/DispatchSheet"), { ssr: false });

/** A trial unfolded: its conversation, how each reply was judged, and the way to its dispatches. */
export function TrialSheet({ id, onFold }: { id: string; onFold: () => void }) {
  const { data, error } = useQuery({ queryKey: keys.trial(id), queryFn: () => server.send(checks.trial, { id }) });
  const [making, setMaking] = useState<string>();
  const read = data && parseScript(data.text).script.checks[0];
  const expected = new Map(read ? expectedIn(read).map((each) => [each.line, each.expectation]) : []);
  return (
    <Unfolding label="Trial" isRead={data !== undefined} onFold={onFold}>
      {error && <ProblemNote problem={problemIn(error, "The trial")} />}
      {data && (
        <div className={styles.trial}>
          <p>
            Trial {data.trial} of “{data.check}” on {data.column}, with the seed {data.seed}: {data.outcome}. It took{" "}
            {duration(data.ms)}
            {data.currency !== null && ` and ${price(data.price, data.currency)}`}.
          </p>
          {data.replies.map((reply, at) => (
            <div key={reply.line}>
              <Given from={(data.replies[at - 1]?.turn ?? 0) + 1} to={reply.turn - 1} />
              <SheetRow turn={String(reply.turn)} tone="visitor" label={`Turn ${reply.turn}, visitor`}>
                <Who>Visitor</Who> <span className={styles.asked}>{reply.message}</span>
              </SheetRow>
              <SheetRow tone="app" label={`Turn ${reply.turn}, reply`} side={<ReplyFigures reply={reply} />}>
                {reply.text === "" ? (
                  <span className={styles.quiet}>{reply.figures.problem?.detail ?? "nothing was said"}</span>
                ) : (
                  <Pieces pieces={piecesOf(reply.text)} by="app" />
                )}
                <Judged judged={reply.judged} expected={expected} />
                {reply.making && (
                  <Action
                    aria-expanded={making === reply.making}
                    onClick={() => setMaking(making === reply.making ? undefined : (reply.making ?? undefined))}
                  >
                    dispatch
                  </Action>
                )}
              </SheetRow>
              {reply.making && making === reply.making && (
                <DispatchSheet of={reply.making} what="making" onFold={() => setMaking(undefined)} />
              )}
            </div>
          ))}
          {data.whole.length > 0 && (
            <SheetRow tone="app" label="All replies together">
              <Who>The whole</Who>
              <Judged judged={data.whole} expected={expected} />
            </SheetRow>
          )}
        </div>
      )}
    </Unfolding>
  );
}

/** Turns that were there already, and nobody was asked. */
function Given({ from, to }: { from: number; to: number }) {
  if (to < from) return null;
  return (
    <SheetRow tone="app" label="Turns that were given">
      <span className={styles.quiet}>
        {from === to ? `turn ${from} was given` : `turns ${from} to ${to} were given`}
      </span>
    </SheetRow>
  );
}

function ReplyFigures({ reply: { figures } }: { reply: WholeTrial["replies"][0] }) {
  const { outcome, firstTextMs, ms, input, output, price: paid, currency } = figures;
  return (
    <>
      {outcome}
      {firstTextMs !== undefined && <div>first text {duration(firstTextMs)}</div>}
      <div>whole {duration(ms)}</div>
      {input !== undefined && output !== undefined && (
        <div>
          {count(input)} tokens in, {count(output)} out
        </div>
      )}
      {paid !== undefined && <div>{price(paid, currency ?? "EUR")}</div>}
    </>
  );
}

const marks = { held: "held", broke: "broke", silent: "silent" } as const;

function Judged({ judged, expected }: { judged: WholeTrial["whole"]; expected: ReadonlyMap<number, Expectation> }) {
  if (judged.length === 0) return null;
  return (
    <ul className={styles.judged}>
      {judged.map((each) => {
        const expectation = expected.get(each.line);
        if (!expectation) return null;
        return (
          <li key={each.line} data-outcome={each.outcome}>
            <b>{marks[each.outcome]}</b> {writeExpectation(expectation)}
            {each.outcome === "broke" && <span className={styles.quiet}> · it {tellJudged(expectation, each)}</span>}
          </li>
        );
      })}
    </ul>
  );
}
