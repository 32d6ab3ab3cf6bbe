"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Drawer, Input, Tabs } from "antd";
import { useState } from "react";
import type { Dispatch } from "@/contract/dispatches";
import { dispatches } from "@/contract/dispatches";
import type { RawAnswer } from "@/contract/trials";
import { type Problem, titleOf } from "@/core/problem/problem";
import { problemIn, server } from "../shared/api";
import { count, duration, many, price } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { wordsFor } from "../shared/reasons";
import { ChoiceWord, NumberWord } from "../shared/words";
import styles from "./DispatchDrawer.module.css";

/** The dispatches of a reply: what was sent, what came back and when, and how the stream fared. */
export default function DispatchDrawer({ reply, onClose }: { reply: string; onClose: () => void }) {
  const { data, error } = useQuery({
    queryKey: keys.dispatches(reply),
    queryFn: () => server.send(dispatches.ofReply, { id: reply }),
    staleTime: 0,
  });
  const [attempt, setAttempt] = useState<number>();
  const all = data?.dispatches ?? [];
  const open = all.find((each) => each.attempt === attempt) ?? all.at(-1);
  return (
    <Drawer
      open
      onClose={onClose}
      size={880}
      title="Dispatch"
      mask={false}
      classNames={{ section: styles.drawer, header: styles.head }}
      destroyOnHidden
    >
      {error && <ProblemNote problem={problemIn(error, "The dispatch")} />}
      {open && (
        <>
          <Summary dispatch={open} attempts={all} onAttempt={setAttempt} />
          <Tabs
            key={open.id}
            items={[
              { key: "arrivals", label: "Arrivals", children: <Arrivals dispatch={open} /> },
              { key: "request", label: "Request", children: <Request dispatch={open} /> },
              { key: "ledger", label: "Ledger", children: <Ledger dispatch={open} /> },
              { key: "headers", label: "Headers", children: <Headers dispatch={open} /> },
            ]}
          />
          <Kept reply={reply} kept={data?.kept ?? { count: 0, bytes: 0 }} />
        </>
      )}
    </Drawer>
  );
}

function Summary({
  dispatch,
  attempts,
  onAttempt,
}: {
  dispatch: Dispatch;
  attempts: Dispatch[];
  onAttempt: (attempt: number) => void;
}) {
  const { model, provider, status, ms, usage, end, problem, verdict, text, limits, notes } = dispatch;
  return (
    <>
      <p className={styles.sentence}>
        {attempts.length > 1 && (
          <>
            <ChoiceWord
              label="Attempt"
              value={String(dispatch.attempt)}
              options={attempts.map((each) => ({
                value: String(each.attempt),
                label: `attempt ${each.attempt} of ${attempts.length}: ${each.end ?? "under way"}`,
              }))}
              onChange={(value) => onAttempt(Number(value))}
            />
            {": "}
          </>
        )}
        <b>{model}</b> on <b>{provider}</b> answered{" "}
        {status === null ? (
          "nothing"
        ) : (
          <>
            with status <b>{status}</b>
          </>
        )}
        {ms !== null && (
          <>
            {" "}
            in <b>{duration(ms)}</b>
          </>
        )}
        {usage && (
          <>
            : <b>{count(usage.input)}</b> tokens in, <b>{count(usage.output)}</b> out,{" "}
            <b>{price(usage.price, usage.currency)}</b>
            {usage.estimated && ", estimated"}
          </>
        )}
        . It ended:{" "}
        <b className={problem ? styles.bad : undefined}>
          {problem ? titleOf(problem.kind).toLowerCase() : (end ?? "not yet")}
        </b>
        .
      </p>
      {problem && <ProblemNote problem={problem} />}
      <p className={styles.verdict} data-kind={verdict.kind}>
        {verdict.saying}
      </p>
      {limits.map(({ of, left, most, resets }) => (
        <p key={of} className={styles.quiet}>
          {left} of {most ?? "an unknown number of"} {of} left{resets ? `, anew in ${resets}` : ""}.
        </p>
      ))}
      {notes.map(
        (note) =>
          note.kind === "count-left-out" && (
            <p key={note.count} className={styles.quiet}>
              It counted <code>{note.found}</code> tokens of {note.count}, which is no count: it was left out, and the
              usage is estimated.
            </p>
          ),
      )}
      {text !== "" && (
        <p className={styles.read}>
          <b>Read as</b> {text.length > 400 ? `${text.slice(0, 400)}…` : text}
        </p>
      )}
    </>
  );
}

const shownAtOnce = 120;

/** What arrived, on a time axis. */
function Arrivals({ dispatch: { arrivals, isThinned, notes, ms, reader, bytes } }: { dispatch: Dispatch }) {
  const [all, setAll] = useState(false);
  if (notes.some(({ kind }) => kind === "secret-in-pieces"))
    return (
      <p className={styles.quiet}>
        {count(bytes)} bytes came, and are not kept: a secret stood among them in pieces, or in another writing. The
        reply shows its text without it.
      </p>
    );
  if (isThinned) return <p className={styles.quiet}>Its bytes were thinned out: {count(bytes)} of them had come.</p>;
  if (arrivals.length === 0) return <p className={styles.quiet}>Nothing arrived.</p>;
  const end = Math.max(ms ?? 0, arrivals.at(-1)?.at ?? 0, 1);
  const shown = all ? arrivals : arrivals.slice(0, shownAtOnce);
  return (
    <>
      <Axis label="At the server" at={arrivals.map(({ at }) => at)} end={end} />
      {reader && reader.length > 0 && (
        <Axis label="At this browser" at={reader.map(([at]) => at)} end={Math.max(end, reader.at(-1)?.[0] ?? 0)} />
      )}
      <table className={styles.arrivals}>
        <thead>
          <tr>
            <th scope="col">after</th>
            <th scope="col">as it came</th>
            <th scope="col">read as</th>
          </tr>
        </thead>
        <tbody>
          {shown.map(({ at, text, read }, place) => (
            <tr key={place}>
              <td>{duration(at)}</td>
              <td>
                <code>
                  {text.length > 600 ? `${text.slice(0, 600)}… (${count(text.length)} characters)` : text.trimEnd()}
                </code>
              </td>
              <td>
                {read.length === 0 ? (
                  <span className={styles.quiet}>nothing</span>
                ) : (
                  read.map((each, line) => <div key={line}>{each}</div>)
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {shown.length < arrivals.length && (
        <button type="button" className="link" onClick={() => setAll(true)}>
          show the other {count(arrivals.length - shown.length)}
        </button>
      )}
    </>
  );
}

/** Moments as marks on a line from the start to the end. */
function Axis({ label, at, end }: { label: string; at: number[]; end: number }) {
  return (
    <div
      className={styles.axis}
      role="img"
      aria-label={`${label}: ${many(at.length, "arrival")} between ${duration(at[0] ?? 0)} and ${duration(at.at(-1) ?? 0)}`}
    >
      <span>{label}</span>
      <div>
        {at.map((each, place) => (
          <i key={place} style={{ left: `${(each / end) * 100}%` }} />
        ))}
      </div>
      <span>{duration(end)}</span>
    </div>
  );
}

/** The request as it was sent; it can be edited and sent again, apart from the conversation. */
function Request({ dispatch }: { dispatch: Dispatch }) {
  const { request, curl, id } = dispatch;
  const [url, setUrl] = useState(request.url);
  const [headers, setHeaders] = useState(() =>
    Object.entries(request.headers)
      .map(([name, value]) => `${name}: ${value}`)
      .join("\n"),
  );
  const [body, setBody] = useState(() => tidy(request.body));
  const [answer, setAnswer] = useState<RawAnswer>();
  const [problem, setProblem] = useState<Problem>();
  const [isSending, setSending] = useState(false);
  const [copySaying, setCopySaying] = useState("copy as curl");
  const again = async () => {
    setProblem(undefined);
    setSending(true);
    try {
      setAnswer(
        await server.send(dispatches.again, {
          id,
          body: {
            url,
            headers: headersIn(headers),
            body,
          },
        }),
      );
    } catch (error) {
      setProblem(problemIn(error, "The call"));
    }
    setSending(false);
  };
  return (
    <>
      <p className={styles.quiet}>
        {request.method}, as it was sent, with the key hidden. Edited here it goes out once more, apart from the
        conversation.{" "}
        <button
          type="button"
          className="link"
          onClick={async () => {
            try {
              await navigator.clipboard.writeText(curl);
              setCopySaying("copied");
            } catch {
              setCopySaying("the browser did not copy it");
            }
          }}
        >
          {copySaying}
        </button>
      </p>
      <div className={styles.request}>
        <Input aria-label="Address" value={url} onChange={(event) => setUrl(event.target.value)} />
        <Input.TextArea
          aria-label="Headers"
          value={headers}
          autoSize={{ minRows: 2, maxRows: 6 }}
          spellCheck={false}
          onChange={(event) => setHeaders(event.target.value)}
        />
        <Input.TextArea
          aria-label="Body"
          value={body}
          autoSize={{ minRows: 8, maxRows: 22 }}
          spellCheck={false}
          onChange={(event) => setBody(event.target.value)}
        />
      </div>
      <Button disabled={isSending} onClick={() => void again()}>
        {isSending ? "Sending" : "Send again"}
      </Button>
      {problem && <ProblemNote problem={problem} />}
      {answer && <Beside dispatch={dispatch} answer={answer} />}
    </>
  );
}

/** The raw answer of what was sent again, beside the first. */
function Beside({ dispatch, answer }: { dispatch: Dispatch; answer: RawAnswer }) {
  return (
    <div className={styles.beside}>
      <section aria-label="The first answer">
        <h3>
          The first · status {dispatch.status ?? "none"} · {many(dispatch.arrivals.length, "part")}
        </h3>
        <pre>
          {dispatch.arrivals.map(({ text }) => text).join("") || (dispatch.isThinned ? "thinned out" : "nothing")}
        </pre>
      </section>
      <section aria-label="The answer to what was sent again">
        <h3>
          Sent again · status {answer.status ?? "none"} · {many(answer.arrivals.length, "part")} in{" "}
          {duration(answer.ms)}
        </h3>
        {answer.problem && <ProblemNote problem={answer.problem} />}
        <pre>{answer.text || "nothing"}</pre>
      </section>
    </div>
  );
}

function tidy(body: string): string {
  try {
    return JSON.stringify(JSON.parse(body), undefined, 2);
  } catch {
    return body;
  }
}

function headersIn(written: string): Record<string, string> {
  return Object.fromEntries(
    written.split("\n").flatMap((line): [string, string][] => {
      const colon = line.indexOf(":");
      return colon > 0 ? [[line.slice(0, colon).trim(), line.slice(colon + 1).trim()]] : [];
    }),
  );
}

/** The itemised reach of the dispatch. */
function Ledger({ dispatch: { ledger, usage } }: { dispatch: Dispatch }) {
  if (!ledger) return null;
  return (
    <>
      <table className={styles.ledger}>
        <thead>
          <tr>
            <th scope="col">What</th>
            <th scope="col">Tokens</th>
            <th scope="col">In or out</th>
            <th scope="col">Why</th>
          </tr>
        </thead>
        <tbody>
          {ledger.entries.map(({ text, tokens, carried, reason }, at) => (
            <tr key={at} data-out={!carried}>
              <td>{text}</td>
              <td>{count(tokens)}</td>
              <td>{carried ? "in" : "out"}</td>
              <td>{wordsFor(reason)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={styles.quiet}>
        About {count(ledger.tokens)} tokens in a window of {count(ledger.window)}, as estimated before it was sent
        {usage && !usage.estimated ? `; the provider counted ${count(usage.input)}` : ""}.
      </p>
    </>
  );
}

function Headers({ dispatch: { headers } }: { dispatch: Dispatch }) {
  const all = Object.entries(headers);
  if (all.length === 0) return <p className={styles.quiet}>No answer, so no headers.</p>;
  return (
    <dl className={styles.headers}>
      {all.map(([name, value]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** What all dispatches take, and the way to thin old ones out. */
function Kept({ reply, kept }: { reply: string; kept: { count: number; bytes: number } }) {
  const client = useQueryClient();
  const [days, setDays] = useState(30);
  const [said, setSaid] = useState("");
  const [problem, setProblem] = useState<Problem>();
  const thin = async () => {
    setProblem(undefined);
    try {
      const { thinned } = await server.send(dispatches.thin, { body: { olderThanDays: days } });
      setSaid(` ${many(thinned, "dispatch", "dispatches")} thinned out.`);
    } catch (error) {
      setProblem(problemIn(error, "Thinning out"));
    }
    await client.invalidateQueries({ queryKey: keys.dispatches(reply) });
  };
  return (
    <div className={styles.kept}>
      {many(kept.count, "dispatch", "dispatches")} keep their bytes, in {count(kept.bytes / 1024)} KB.{" "}
      <button type="button" className="link" onClick={() => void thin()}>
        thin out
      </button>{" "}
      those older than{" "}
      <NumberWord label="Days" value={days} min={0} max={10_000} onChange={(value) => setDays(value ?? 30)} /> days:
      their ledger, usage and outcome stay.<span role="status">{said}</span>
      {problem && <ProblemNote problem={problem} />}
    </div>
  );
}
