import { useInfiniteQuery } from "@tanstack/react-query";
import Link from "next/link";
import { useState } from "react";
import { type CaughtPage, guards } from "@/contract/guards";
import { type Caught, caughtSchema, type GuardAct, guardActs } from "@/core/guards/guard";
import { Action } from "../../shared/Action";
import { problemIn, server } from "../../shared/api";
import { many, moment } from "../../shared/format";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import tables from "../../shared/table.module.css";
import { useNow } from "../../shared/use-now";
import { doneWords, wordsOfCaught } from "../../shared/wording/guards";
import styles from "./Guards.module.css";

const any = "";
const day = 24 * 3_600_000;
const sinces = [
  { value: any, label: "at any time" },
  { value: "1", label: "in the last 24 hours" },
  { value: "7", label: "in the last 7 days" },
  { value: "30", label: "in the last 30 days" },
] as const;

const whatWords: Record<Caught["what"], string> = {
  "e-mail": "an e-mail address",
  phone: "a phone number",
  card: "a card number",
  account: "an account number",
  words: "a word",
  pattern: "a match of a pattern",
  length: "the length",
  prompt: "its own prompt",
  judge: "what a judge says",
};

/** What the guards of an app caught: how often, and where, chosen by a sentence. What was found itself stands nowhere. */
export function CaughtList({ slug }: { slug: string }) {
  const [guard, setGuard] = useState(any);
  const [does, setDoes] = useState<GuardAct | typeof any>(any);
  const [what, setWhat] = useState<Caught["what"] | typeof any>(any);
  const [within, setWithin] = useState<(typeof sinces)[number]["value"]>(any);
  const now = useNow();
  const query = useInfiniteQuery({
    queryKey: [...keys.caught(slug), guard, does, what, within],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam: before }) =>
      server.send(guards.caught, {
        slug,
        ...(guard && { guard }),
        ...(does && { does }),
        ...(what && { what }),
        ...(within && { since: Date.now() - Number(within) * day }),
        ...(before && { before }),
      }),
    getNextPageParam: ({ before }: CaughtPage) => before ?? undefined,
  });
  const pages = query.data?.pages ?? [];
  const counts = pages[0]?.counts ?? [];
  const rows = pages.flatMap(({ caught }) => caught);
  const times = counts.reduce((sum, each) => sum + each.times, 0);
  const names = [...new Set([...counts.map((each) => each.guard), ...(guard ? [guard] : [])])];
  return (
    <section className={styles.caught} aria-label="What guards caught">
      <div>
        Caught by{" "}
        <ChoiceValue
          label="Guard"
          value={guard}
          options={[{ value: any, label: "any guard" }, ...names.map((name) => ({ value: name, label: name }))]}
          onChange={setGuard}
        />
        ,{" "}
        <ChoiceValue
          label="What was done"
          value={does}
          options={[
            { value: any, label: "whatever was done" },
            ...guardActs.map((act) => ({ value: act, label: doneWords[act] })),
          ]}
          onChange={setDoes}
        />
        , for{" "}
        <ChoiceValue
          label="What was caught"
          value={what}
          options={[
            { value: any, label: "anything" },
            ...caughtSchema.shape.what.options.map((each) => ({ value: each, label: whatWords[each] })),
          ]}
          onChange={setWhat}
        />
        , <ChoiceValue label="Time" value={within} options={sinces} onChange={setWithin} />:{" "}
        <b>{many(times, "thing")}</b>.
      </div>
      {query.error && <ProblemNote problem={problemIn(query.error, "The list")} />}
      {query.data && rows.length === 0 && <p className={styles.note}>Nothing.</p>}
      {counts.length > 1 && (
        <p className={styles.note}>
          {counts
            .map(
              (each) =>
                `${each.guard} ${doneWords[each.does]} ${wordsOfCaught(each)} at ${many(each.replies, "reply", "replies")}`,
            )
            .join(" · ")}
        </p>
      )}
      {rows.length > 0 && (
        <table className={tables.table}>
          <thead>
            <tr>
              <th scope="col">When</th>
              <th scope="col">Guard</th>
              <th scope="col">What it did</th>
              <th scope="col">
                <span className="unseen">Where</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.id}>
                <td>{moment(row.at, now)}</td>
                <th scope="row">{row.guard}</th>
                <td>
                  {doneWords[row.does]} {wordsOfCaught(row)}
                  {row.on === "sent" ? ", before sending" : ", before showing"}
                </td>
                <td>
                  <Link href={`/apps/${slug}/build?conversation=${row.conversation}`}>open</Link>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {query.hasNextPage && <Action onClick={() => void query.fetchNextPage()}>more</Action>}
    </section>
  );
}
