import { useQuery } from "@tanstack/react-query";
import dynamic from "next/dynamic";
import { Fragment, useState } from "react";
import { addressFor } from "@/contract/call";
import { type Called, type Serving, serving } from "@/contract/serving";
import { wordFor } from "@/core/problem/problem";
import { type Access, originSchema } from "@/core/serving/access";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { cost, count, duration, many } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { Tip } from "../shared/Tip";
import { wordsOfState } from "../shared/wording/endings";
import { cameFrom } from "../shared/wording/origins";
import styles from "./ServeView.module.css";
import { often } from "./use-serving";

const DispatchSheet = dynamic(() => import("../dispatch/DispatchSheet"), { ssr: false });

const filters = [
  { value: "all", label: "all" },
  { value: "refused", label: "refused" },
  { value: "failed", label: "refused and failed" },
];

interface Props {
  slug: string;
  served: Serving;
  allow: (access: Partial<Access>) => void;
}

/** The calls of an app as they come, the latest first; each opens its dispatch. */
export function Calls({ slug, served, allow }: Props) {
  const [only, setOnly] = useState<"all" | "refused" | "failed">("all");
  const [isPaused, setPaused] = useState(false);
  const [before, setBefore] = useState<string>();
  const [opened, setOpened] = useState<string>();
  const query = useQuery({
    queryKey: [...keys.calls(slug), only, before],
    queryFn: () => server.send(serving.calls, { slug, only, before }),
    refetchInterval: isPaused || before !== undefined ? false : often,
    placeholderData: (last) => last,
  });
  const calls = query.data?.calls ?? [];
  const { origins } = served.access;
  return (
    <section aria-labelledby="calls-as-they-come">
      <div className={styles.title}>
        <h2 id="calls-as-they-come">Calls as they come</h2>
        <span>
          {before !== undefined ? "older ones" : isPaused ? "paused" : "live"}, {many(served.today.calls, "call")} today
        </span>
        <span>
          shows{" "}
          <ChoiceValue
            label="Which calls are shown"
            value={only}
            options={filters}
            onChange={(value) => {
              setOnly(value as typeof only);
              setBefore(undefined);
            }}
          />
        </span>
        <Action onClick={() => setPaused(!isPaused)}>{isPaused ? "continue" : "pause"}</Action>
      </div>
      {query.error && <ProblemNote problem={query.error.problem} />}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <section className={styles.scroll} tabIndex={0} aria-label="The calls">
        <table className={styles.table}>
          <thead>
            <tr>
              {["at", "from", "visitor", "status", "first text", "tokens", "price", "how it ended"].map((head) => (
                <th key={head} scope="col">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {calls.map((call) => (
              <Fragment key={call.id}>
                <CallRow
                  call={call}
                  isOpen={opened === call.id}
                  onOpen={() => setOpened(opened === call.id ? undefined : call.id)}
                  onAllow={
                    isAllowable(call) && !origins.includes(call.webOrigin)
                      ? () => allow({ origins: [...origins, call.webOrigin] })
                      : undefined
                  }
                />
                {opened === call.id && (
                  <tr>
                    <td colSpan={8} className={styles.opened}>
                      <CallDetails call={call} onFold={() => setOpened(undefined)} />
                    </td>
                  </tr>
                )}
              </Fragment>
            ))}
            {query.isSuccess && calls.length === 0 && (
              <tr>
                <td colSpan={8} className={styles.none}>
                  {only === "all" ? "No call has come yet. Send one from below." : "None of these."}
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </section>
      <p className={styles.under}>
        {query.data?.before && <Action onClick={() => setBefore(query.data.before ?? undefined)}>older ones</Action>}
        {before !== undefined && <Action onClick={() => setBefore(undefined)}>the latest</Action>}
      </p>
    </section>
  );
}

function CallRow({
  call,
  isOpen,
  onOpen,
  onAllow,
}: {
  call: Called;
  isOpen: boolean;
  onOpen: () => void;
  onAllow: (() => void) | undefined;
}) {
  const { at, visitor, status, ended, reply } = call;
  const usage = ended?.usage;
  const isBad = status >= 400 || ended?.state === "failed" || ended?.state === "interrupted";
  return (
    <tr data-bad={isBad || undefined}>
      <td>
        <Action aria-expanded={isOpen} onClick={onOpen}>
          {new Date(at).toLocaleTimeString("en-GB")}
        </Action>
      </td>
      <td className={styles.cut}>
        <Tip says={fromOf(call)}>{fromOf(call)}</Tip>
      </td>
      <td className={styles.cut}>{visitor === null ? "—" : <Tip says={visitor}>{visitor}</Tip>}</td>
      <td>{status}</td>
      <td>{ended?.firstTextMs != null ? duration(ended.firstTextMs) : ""}</td>
      <td>{usage ? `${count(usage.input)} → ${count(usage.output)}` : ""}</td>
      <td>{usage ? cost(usage) : ""}</td>
      <td data-state={ended?.state}>
        {endOf(call)}
        {reply !== null && ended === null && status < 400 && "under way"}
        {onAllow && (
          <>
            {" "}
            <Action onClick={onAllow}>allow it</Action>
          </>
        )}
      </td>
    </tr>
  );
}

/** Whether a call was refused for its origin, and that is one which can be allowed: a page without one can't be told from another. */
function isAllowable(call: Called): call is Called & { webOrigin: string } {
  return call.status === 403 && originSchema.safeParse(call.webOrigin).success;
}

function fromOf({ origin, client, shape, webOrigin }: Called): string {
  const named = cameFrom({ origin: shape === "common" ? "common shape" : origin, client });
  return webOrigin === null ? named : `${named}, other origin`;
}

function endOf({ ended, problem, webOrigin, status }: Called): string {
  if (problem && webOrigin === "null" && status === 403)
    return "a page without an origin may not call: serve it from an address";
  if (problem && webOrigin !== null && status === 403) return `${webOrigin} may not call`;
  if (problem && ended === null) return `${wordFor(problem.kind)}: ${problem.detail}`;
  if (problem) return wordFor(problem.kind);
  return ended ? wordsOfState(ended.state) : "";
}

function CallDetails({ call, onFold }: { call: Called; onFold: () => void }) {
  const { id, method, path, address, problem, reply } = call;
  return (
    <>
      <p className={styles.under}>
        <code>
          {method} {path}
        </code>
        <span>from {address}</span>
        <code>{id}</code>
        <a href={addressFor(serving.callFile, { id })} download={`${id}.json`}>
          download it
        </a>
      </p>
      {problem && <ProblemNote problem={problem} />}
      {reply !== null && <DispatchSheet of={reply} onFold={onFold} />}
    </>
  );
}
