import { useState } from "react";
import { jobs } from "@/contract/jobs";
import { sources as calls, type Source } from "@/contract/sources";
import {
  type Digest,
  digestForecast,
  digestTokens,
  isDigestOf,
  longestWhole,
  stretchFor,
  worthDigest,
} from "@/core/sources/digest";
import type { Sources } from "@/core/sources/sources";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { dearestOf, type Prices } from "@/core/tokens/price";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { count, many, price } from "../../shared/format";
import { NumberValue } from "../../shared/inline/NumberValue";
import { isRunning, useJobs } from "../../shared/jobs/use-jobs";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";
import styles from "./SourcesStation.module.css";

/** What a model that makes a digest holds and costs; undefined where none is chosen. */
export interface DigestMaker {
  window: number;
  price: Prices;
}

type Named = Sources["documents"][number];

interface Props {
  slug: string;
  source: Source;
  named: Named;
  maker: DigestMaker | undefined;
  onChange: (whole: Named["whole"]) => void;
}

/** What goes along of a document that does whole: its text, or the digest in its place. */
export function WholeDocument({ slug, source, named, maker, onChange }: Props) {
  const { title, hash, tokens } = source;
  const { digest } = named.whole ?? {};
  if (isDigestOf(digest, named.version ?? hash))
    return <Made digest={digest} title={title} onText={() => onChange({})} />;
  return (
    <>
      {title} goes along whole{tokens !== null && `, ${many(tokens, "token")}`}
      {digest && "; its digest is of another version, and does not"}
      {(tokens ?? 0) >= worthDigest && (
        <>
          ; <Making {...{ slug, source, maker }} />
        </>
      )}
    </>
  );
}

/** A digest that goes along, what it covers, and its words. */
function Made({ digest, title, onText }: { digest: Digest; title: string; onText: () => void }) {
  const [isOpen, setOpen] = useState(false);
  const { text, characters } = digest;
  const size = rawTokens(countsOf(text));
  return (
    <>
      {title} goes along by its digest, {many(Math.round(size), "token")} instead of {count(digest.tokens)}:{" "}
      {coverWords(digest)}.{" "}
      <Action aria-expanded={isOpen} aria-label={`Read the digest of ${title}`} onClick={() => setOpen(!isOpen)}>
        {isOpen ? "fold it" : "read it"}
      </Action>
      {" · "}
      <Action aria-label={`Leave the digest of ${title}`} onClick={onText}>
        {characters <= longestWhole ? "send the text itself" : "leave it"}
      </Action>
      {isOpen && <p className={styles.digest}>{text}</p>}
    </>
  );
}

/** What a digest covers, in words. */
function coverWords({ pages, unread, stretches, passes, cut }: Digest): string {
  const of = pages === undefined ? "all of it" : unread.length === 0 ? `all ${pages} pages` : `${pages} pages`;
  const without = unread.length === 0 ? "" : `, but ${unread.map(({ part }) => part).join(", ")}, which can't be read`;
  const shorter = cut === 0 ? "" : `; ${many(cut, "part")} met the output limit, and may miss something`;
  return `${of}${without}, in ${many(stretches, "part")} and ${many(passes, "pass", "passes")}${shorter}`;
}

/** How a digest is made: how long, in how many calls, for what price; and how far that is. */
function Making({ slug, source, maker }: Pick<Props, "slug" | "source" | "maker">) {
  const { id, title, tokens, isRead } = source;
  const [within, setWithin] = useState<number>(digestTokens.usual);
  const touches = [keys.sources(slug), keys.jobs];
  const making = useChange(
    "The digest",
    (tokens: number) => server.send(calls.digest, { id, body: { within: tokens } }),
    touches,
  );
  const stopping = useChange("Stopping it", (job: string) => server.send(jobs.stop, { id: job }), [keys.jobs]);
  const job = useJobs().find(({ work }) => work.kind === "digest" && work.source === id);
  if (job && isRunning(job))
    return (
      <>
        a digest is made: {job.done} of {job.of}{" "}
        <Action aria-label={`Stop making the digest of ${title}`} onClick={() => stopping.run(job.id)}>
          stop
        </Action>
      </>
    );
  if (!isRead || tokens === null || !maker) return <>a digest can be made once it is read</>;
  const { calls: times, input, output } = digestForecast(tokens, within, stretchFor(maker.window));
  const amount = dearestOf({ input, output }, [maker.price]);
  const cost = amount === undefined ? "at a price that is not set" : `about ${price(amount, maker.price.currency)}`;
  const failure = making.problem ?? (job?.state === "failed" ? job.problem : null);
  return (
    <>
      <Action aria-label={`Make a digest of ${title}`} onClick={() => making.run(within)}>
        {job?.state === "failed" || job?.state === "stopped" ? "go on making a digest" : "make a digest"}
      </Action>{" "}
      of{" "}
      <NumberValue
        label={`Tokens of the digest of ${title}`}
        value={within}
        min={digestTokens.least}
        max={digestTokens.most}
        step={100}
        onChange={(tokens) => tokens && setWithin(tokens)}
      />{" "}
      tokens, {many(times, "call")}, {cost}
      {failure && (
        <span data-tone="caution" role="status">
          {" "}
          {failure.detail} {failure.advice}
        </span>
      )}
    </>
  );
}
