import { Button } from "antd";
import { useRef, useState } from "react";
import type { App } from "@/contract/apps";
import { addressFor } from "@/contract/call";
import { samplesOf } from "@/contract/example";
import { replies } from "@/contract/replies";
import { type Serving, serving } from "@/contract/serving";
import { visitors } from "@/contract/visitors";
import { type CallsWith, headersOf, type Way } from "@/core/calling/call";
import { callFor, type Place, sampleFor, waysIn } from "@/core/calling/sample";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { CopyAction } from "../shared/CopyAction";
import { duration } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { FormText } from "../shared/inline/FormText";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import styles from "./ServeView.module.css";
import { type Sent, sendCall } from "./send-call";

const from: { value: Place; label: string }[] = [
  { value: "shell", label: "a shell" },
  { value: "browser", label: "a browser" },
  { value: "node", label: "Node" },
  { value: "python", label: "Python" },
  { value: "php", label: "PHP" },
  { value: "ruby", label: "Ruby" },
  { value: "java", label: "Java" },
];
const ways: { value: Way; label: string }[] = [
  { value: "stream", label: "a stream" },
  { value: "whole", label: "the whole answer" },
  { value: "later", label: "an answer at once, read later" },
];
const accesses: Record<CallsWith, string> = {
  nothing: "no token",
  server: "a server token",
  public: "a public token",
  site: "an identity of your site",
};
const rightness = [
  { value: "right", label: "a right call" },
  { value: "wrong", label: "a wrong call" },
];

interface Props {
  app: App;
  served: Serving;
  visitor: string;
  onVisitor: (visitor: string) => void;
}

/** How the app is called: a program that runs as it stands, sent from here or copied. */
export function CallIt({ app: { slug }, served: { base, access, asks }, visitor, onVisitor }: Props) {
  const [place, setPlace] = useState<Place>("shell");
  const [chosen, setChosen] = useState<CallsWith>();
  const [token, setToken] = useState("");
  const [given, setGiven] = useState<Record<string, string>>({});
  const [way, setWay] = useState<Way>("stream");
  const [isWrong, setWrong] = useState(false);
  const [message, setMessage] = useState("Do dogs pay on the 9:40?");
  const [conversation, setConversation] = useState<string>();
  const [isSecond, setSecond] = useState(false);
  const [sent, setSent] = useState<Sent>();
  const sending = useRef<AbortController>(undefined);

  // without a word of the developer's, what the app asks for of a caller from there
  const offered = waysIn(place);
  const usual = access.callers === "machine" ? "nothing" : (offered[1] ?? "nothing");
  const calledWith = chosen && offered.includes(chosen) ? chosen : usual;
  const isNamed = place !== "browser";
  const call = callFor({
    base,
    slug,
    visitor: isNamed ? visitor.trim() : "",
    with: calledWith,
    token: token.trim(),
    way,
    message,
    variables: { ...samplesOf(asks), ...given },
    conversation: isSecond ? conversation : undefined,
    isWrong,
  });
  const code = sampleFor(place, call);

  const send = async (which = call) => {
    sending.current?.abort();
    const controller = new AbortController();
    sending.current = controller;
    // the endpoints are at this address too, whatever others call
    const url = addressFor(replies.ask, { slug });
    const headers = headersOf(which);
    if (which.with === "public") headers.authorization = await passFor(slug, which.token);
    for await (const now of sendCall(url, which.body, headers, controller.signal)) {
      setSent(now);
      if (now.conversation) setConversation(now.conversation);
    }
  };
  const second = async () => {
    setMessage("And with a second dog?");
    setSecond(true);
  };
  const frontEnd = useChange("The page", () => server.send(serving.makeFrontEnd, { slug, body: {} }), [
    keys.serving(slug),
  ]);
  const download = async () => {
    const made = await frontEnd.done();
    if (!made.ok) return;
    const address = URL.createObjectURL(new Blob([made.value.html], { type: "text/html" }));
    Object.assign(document.createElement("a"), { href: address, download: `${slug}.html` }).click();
    URL.revokeObjectURL(address);
  };
  const isSending = sent !== undefined && sent.endedAt === undefined;
  return (
    <section aria-labelledby="call-it">
      <div className={styles.title}>
        <h2 id="call-it">Call it</h2>
        <span>with this app's address; sent from here or copied</span>
        <Action onClick={() => void download()}>a page in one file</Action>
        <a href={addressFor(replies.describe, { slug })} target="_blank" rel="noopener">
          OpenAPI 3.1
        </a>
      </div>
      <div className={styles.sentence}>
        Called from{" "}
        <ChoiceValue
          label="Where it is called from"
          value={place}
          options={from}
          onChange={(value) => setPlace(value as Place)}
        />
        , asking for{" "}
        <ChoiceValue
          label="How it is asked for"
          value={way}
          options={ways}
          onChange={(value) => setWay(value as Way)}
        />
        , with{" "}
        <ChoiceValue
          label="What it calls with"
          value={calledWith}
          options={offered.map((value) => ({ value, label: accesses[value] }))}
          onChange={(value) => setChosen(value as CallsWith)}
        />
        {calledWith !== "nothing" && (
          <>
            {" "}
            <FormText label="Token of the call" value={token} placeholder="YOUR_TOKEN" onChange={setToken} />
          </>
        )}
        {isNamed && (
          <>
            , as <FormText label="Visitor" value={visitor} placeholder="a new visitor" onChange={onVisitor} />
          </>
        )}
        {asks.map(({ name, sample }) => (
          <span key={name}>
            , {name}{" "}
            <FormText
              label={`Variable ${name}`}
              value={given[name] ?? sample}
              placeholder="…"
              onChange={(value) => setGiven({ ...given, [name]: value })}
            />
          </span>
        ))}
        , {isNamed || asks.length > 0 ? "and as" : "as"}{" "}
        <ChoiceValue
          label="Right or wrong"
          value={isWrong ? "wrong" : "right"}
          options={rightness}
          onChange={(value) => setWrong(value === "wrong")}
        />{" "}
        and the{" "}
        <ChoiceValue
          label="First or second message"
          value={isSecond ? "second" : "first"}
          options={[
            { value: "first", label: "first message" },
            { value: "second", label: conversation ? "second message" : "second message, once one was sent" },
          ]}
          onChange={(value) => setSecond(value === "second" && conversation !== undefined)}
        />
        : <FormText label="Message of the call" value={message} placeholder="…" onChange={setMessage} />
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <pre className={styles.program} tabIndex={0}>
        {code}
      </pre>
      <p className={styles.actions}>
        <Button type="primary" onClick={() => void send()} disabled={isSending}>
          Send it
        </Button>
        {isSending && <Action onClick={() => sending.current?.abort()}>stop</Action>}
        <CopyAction text={() => code} />
        {conversation && !isSecond && <Action onClick={() => void second()}>continue with a second message</Action>}
      </p>
      {frontEnd.problem && <ProblemNote problem={frontEnd.problem} />}
      {sent && <Outcome sent={sent} />}
    </section>
  );
}

/** What a visitor calls with whom a public token opens; that token's own word where it opens none. */
async function passFor(slug: string, token: string): Promise<string> {
  const opened = await fetch(addressFor(visitors.open, { slug }), {
    method: "POST",
    headers: { authorization: `Bearer ${token}`, "content-type": "application/json" },
    body: "{}",
  });
  return `Bearer ${opened.ok ? ((await opened.json()) as { pass: string }).pass : token}`;
}

/** What came of a call: status, headers, and events with their times. */
function Outcome({ sent }: { sent: Sent }) {
  const { status, type, headers, events, body, failure, firstTextMs } = sent;
  const [showsHeaders, setShowsHeaders] = useState(false);
  return (
    <div className={styles.outcome} data-bad={(status ?? 0) >= 400 || failure !== undefined || undefined} role="status">
      {failure ?? (
        <>
          <b>{status === undefined ? "sent" : `${status} · ${type}`}</b>
          {events[0] && ` · first event ${duration(events[0].at)}`}
          {firstTextMs !== undefined && `, first text ${duration(firstTextMs)}`}
          {sent.endedAt !== undefined && ` · ended after ${duration(sent.endedAt)}`}{" "}
          {headers.length > 0 && (
            <Action aria-expanded={showsHeaders} onClick={() => setShowsHeaders(!showsHeaders)}>
              headers
            </Action>
          )}
        </>
      )}
      {showsHeaders && <pre>{headers.map(([name, value]) => `${name}: ${value}`).join("\n")}</pre>}
      {body !== "" && <pre>{body}</pre>}
      {events.length > 0 && (
        <ol>
          {events.map(({ id, event, data, at }) => (
            <li key={id}>
              <span>{duration(at)}</span> {id} {event} {data}
            </li>
          ))}
        </ol>
      )}
    </div>
  );
}
