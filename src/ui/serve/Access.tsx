import { useState } from "react";
import type { App } from "@/contract/apps";
import { apps } from "@/contract/apps";
import { samplesOf } from "@/contract/example";
import { type Hop, type Serving, serving } from "@/contract/serving";
import { sameContent } from "@/core/revision/content";
import type { Access as Allowed } from "@/core/serving/access";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { many, price } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { NumberValue } from "../shared/inline/NumberValue";
import { Unfolds } from "../shared/inline/Unfolds";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { usePutLive } from "../shared/use-put-live";
import { Choices, Origins } from "./AccessDetails";
import styles from "./ServeView.module.css";
import { Tokens } from "./Tokens";

/** An address that only this machine can open. */
const isOwn = /^https?:\/\/(?:localhost|127\.|\[::1\])/;

const callers = [
  { value: "machine", label: "anyone on this machine" },
  { value: "token", label: "callers with a token only" },
  { value: "nobody", label: "nobody" },
];
const pages = [
  { value: "open", label: "open" },
  { value: "closed", label: "closed" },
];

interface Props {
  app: App;
  served: Serving;
  allow: (access: Partial<Allowed>) => void;
}

/** What is live, where, and who may call it, in a sentence; what is rarely needed unfolds under it. */
export function Access({ app, served, allow }: Props) {
  const { access, tokens, base } = served;
  const { limits } = access;
  const [opened, setOpened] = useState<"tokens" | "origins" | "choices">();
  const limit = (change: Partial<Allowed["limits"]>) => allow({ limits: { ...limits, ...change } });
  const word = (what: typeof opened, text: string) => (
    <Unfolds isOpen={opened === what} onClick={() => setOpened(opened === what ? undefined : what)}>
      {text}
    </Unfolds>
  );
  return (
    <section aria-label="Who may call">
      <div className={styles.sentence}>
        {app.name} answers with <Live app={app} served={served} /> at{" "}
        <a href={`${base}/talk/${app.slug}`} target="_blank" rel="noopener">
          {base}/talk/{app.slug}
        </a>
        , to{" "}
        <ChoiceValue
          label="Who may call"
          value={access.callers}
          options={callers}
          onChange={(value) => allow({ callers: value as Allowed["callers"] })}
        />{" "}
        and {word("tokens", many(tokens.length, "access token"))}, at most{" "}
        <NumberValue
          label="Calls a minute of one visitor"
          value={limits.visitor ?? undefined}
          min={1}
          max={100_000}
          none={{ said: "any number of", choose: "no limit" }}
          onChange={(value) => limit({ visitor: value ?? null })}
        />{" "}
        calls a minute each; its page is{" "}
        <ChoiceValue
          label="The page"
          value={access.page ? "open" : "closed"}
          options={pages}
          onChange={(value) => allow({ page: value === "open" })}
        />
        .
      </div>
      <p className={styles.under}>
        <Preview app={app} served={served} />
        <span>
          today {many(served.today.calls, "call")}, {served.today.ofPage} of them from the page,{" "}
          {price(served.today.price, served.today.currency)}
        </span>
        {word("origins", access.origins.length === 0 ? "no other origin" : many(access.origins.length, "origin"))}
        {word("choices", "limits, and what callers may see and choose")}
      </p>
      {access.page && (access.callers !== "machine" || !isOwn.test(base)) && (
        <p className={styles.under}>
          The page is open: whoever can open it can ask, without a token, at most{" "}
          {limits.address === null ? "any number of" : limits.address} times a minute from one address. Close it where
          only callers with a token may.
        </p>
      )}
      {access.page && served.asks.length > 0 && (
        <p className={styles.under}>
          <span>
            The prompt leaves {served.asks.map(({ name }) => name).join(", ")} to callers: the page asks its visitors
            first, or takes it from its address, such as{" "}
            <code>
              /talk/{app.slug}?{new URLSearchParams(samplesOf(served.asks)).toString()}
            </code>
          </span>
        </p>
      )}
      <Hops hops={served.hops} />
      {opened === "tokens" && <Tokens slug={app.slug} tokens={tokens} />}
      {opened === "origins" && <Origins origins={access.origins} allow={allow} />}
      {opened === "choices" && <Choices access={access} allow={allow} limit={limit} />}
    </section>
  );
}

function Live({ app, served }: { app: App; served: Serving }) {
  const live = usePutLive(
    app.slug,
    (content, despite) =>
      server.send(apps.putLive, { slug: app.slug, body: { content: content ?? app.draft, despite } }),
    [keys.apps, keys.serving(app.slug)],
  );
  const now = `revision ${served.liveRevision}`;
  const isLatestLive = app.latest.number === served.liveRevision;
  const isDraftNew = !sameContent(app.draft, app.latest.content);
  const options = [
    { value: "live", label: now },
    ...(isLatestLive ? [] : [{ value: "latest", label: `revision ${app.latest.number}: make it live` }]),
    ...(isDraftNew ? [{ value: "draft", label: "the draft: make it live" }] : []),
  ];
  const choose = (value: string) => {
    if (value === "latest") live.run(app.latest.content);
    if (value === "draft") live.run(app.draft);
  };
  return (
    <>
      <ChoiceValue label="What is live" value="live" options={options} onChange={choose} />
      {live.note}
    </>
  );
}

/** What is tried at an address of its own, before it is made live. */
function Preview({ app, served }: { app: App; served: Serving }) {
  const { slug, draft, draftRevision } = app;
  const { previewRevision, liveRevision, base } = served;
  const setPreview = useChange(
    "The change",
    (content: App["draft"] | null) => server.send(serving.setPreview, { slug, body: { content } }),
    [keys.serving(slug), keys.app(slug)],
  );
  const isTried = previewRevision !== null && draftRevision === previewRevision;
  return (
    <span>
      {previewRevision !== null && (
        <>
          revision {previewRevision} is a preview at{" "}
          <a href={`${base}/talk/${slug}/preview`} target="_blank" rel="noopener">
            /talk/{slug}/preview
          </a>
          , <Action onClick={() => setPreview.run(null)}>end it</Action>
          {!isTried && ", "}
        </>
      )}
      {!isTried && draftRevision !== liveRevision && (
        <Action onClick={() => setPreview.run(draft)}>make the draft a preview</Action>
      )}
      {previewRevision === null && draftRevision === liveRevision && "there is no preview"}
      {setPreview.problem && <ProblemNote problem={setPreview.problem} />}
    </span>
  );
}

const hopNames: Record<Hop["where"], string> = {
  visitor: "Visitor",
  page: "Page",
  endpoints: "Endpoints",
  revision: "Revision",
  provider: "Provider",
};
const marks: Record<Hop["state"], string> = { good: "✓", quiet: "–", bad: "✕" };

/** The way from a visitor to the provider in a line, each hop with how it stands. */
function Hops({ hops }: { hops: Hop[] }) {
  return (
    <ol className={styles.hops} aria-label="Hops">
      {hops.map(({ where, state, says }) => (
        <li key={where} data-state={state}>
          <i aria-hidden="true">{marks[state]}</i> <b>{hopNames[where]}</b> {says}
        </li>
      ))}
    </ol>
  );
}
