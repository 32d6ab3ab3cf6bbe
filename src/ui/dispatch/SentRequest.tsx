import { Button, Input } from "antd";
import { useState } from "react";
import { type Dispatch, dispatches } from "@/contract/dispatches";
import type { RawAnswer } from "@/contract/tries";
import { server } from "../shared/api";
import { CopyAction } from "../shared/CopyAction";
import { duration, many } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { useChange } from "../shared/use-change";
import styles from "./DispatchSheet.module.css";

/** The request as it was sent; it can be edited and sent again, apart from the conversation. */
export function SentRequest({ dispatch }: { dispatch: Dispatch }) {
  const { request, curl, id } = dispatch;
  const [url, setUrl] = useState(request.url);
  const [headers, setHeaders] = useState(() =>
    Object.entries(request.headers)
      .map(([name, value]) => `${name}: ${value}`)
      .join("\n"),
  );
  const [body, setBody] = useState(() => tidy(request.body));
  const [answer, setAnswer] = useState<RawAnswer>();
  const again = useChange("The call", async () => {
    setAnswer(await server.send(dispatches.again, { id, body: { url, headers: headersIn(headers), body } }));
  });
  return (
    <>
      <p className={styles.quiet}>
        {request.method}, as it was sent, with the key hidden. Edited here it goes out once more, apart from the
        conversation. <CopyAction text={() => curl}>copy as curl</CopyAction>
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
      <Button disabled={again.isRunning} onClick={() => again.run()}>
        {again.isRunning ? "Sending" : "Send again"}
      </Button>
      {again.problem && <ProblemNote problem={again.problem} />}
      {answer && <Beside dispatch={dispatch} answer={answer} />}
    </>
  );
}

/** The raw answer of what was sent again, beside the first. */
function Beside({ dispatch, answer }: { dispatch: Dispatch; answer: RawAnswer }) {
  return (
    <div className={styles.beside}>
      <section aria-label="The first answer">
        <h2>
          The first · status {dispatch.status ?? "none"} · {many(dispatch.arrivals.length, "part")}
        </h2>
        <pre>
          {dispatch.arrivals.map(({ text }) => text).join("") || (dispatch.isThinned ? "thinned out" : "nothing")}
        </pre>
      </section>
      <section aria-label="The answer to what was sent again">
        <h2>
          Sent again · status {answer.status ?? "none"} · {many(answer.arrivals.length, "part")} in{" "}
          {duration(answer.ms)}
        </h2>
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
