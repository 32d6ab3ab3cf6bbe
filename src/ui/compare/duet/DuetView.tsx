"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import { useMemo, useRef, useState } from "react";
import { type Duet, duets } from "@/contract/duets";
import { server } from "../../shared/api";
import { laneAbout, laneSaid, type Spoken } from "../../shared/candidate/candidate-words";
import composer from "../../shared/composer.module.css";
import { Fallible } from "../../shared/Fallible";
import { useFocusKept } from "../../shared/keys/use-focus-kept";
import { useKeys } from "../../shared/keys/use-keys";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import { SheetFrame } from "../../shared/sheet/SheetFrame";
import { SheetRow } from "../../shared/sheet/SheetRow";
import { useChange } from "../../shared/use-change";
import { liveReplies } from "../../shared/use-live-reply";
import { CandidatePanel } from "../CandidatePanel";
import styles from "../Compare.module.css";
import type { NewLane } from "../comparison";
import { chooseLanes } from "../fresh-lanes";
import { ReadBench } from "../ReadBench";
import { type Bench, useCandidates } from "../use-candidates";
import { DuetFoot } from "./DuetFoot";
import { DuetList } from "./DuetList";
import { DuetSentence, TalkedSentence, type Wish } from "./DuetSentence";
import { endingWords } from "./ending-words";
import { UtteranceRow, WordRow } from "./UtteranceRow";
import { repliesOf, useDuet } from "./use-duet";

const plainWish: Wish = {
  opening: "",
  cue: "Begin the conversation.",
  opener: 0,
  rounds: 10,
  mostPrice: undefined,
  mostTokens: undefined,
};
/** What the duets of apps are to be that are not begun, by the apps' addresses: it stays when one looks elsewhere. */
const wishes = new Map<string, Wish>();

/** Two candidates in conversation with each other. @param id the duet that is open; none for a new one */
export function DuetView({ slug, id }: { slug: string; id: string | undefined }) {
  const duet = useDuet(id);
  return (
    <ReadBench slug={slug} isRead={id === undefined || duet.data !== undefined} failure={duet.error}>
      {(bench) => <OpenDuet key={id ?? "new"} bench={bench} duet={duet.data} />}
    </ReadBench>
  );
}

function OpenDuet({ bench, duet }: { bench: Bench; duet: Duet | undefined }) {
  const { app } = bench;
  const { slug } = app;
  const client = useQueryClient();
  const router = useRouter();
  const view = useRef<HTMLElement>(null);
  const asked = useMemo(() => duet?.sides.map((side, at) => ({ ...side, key: String(at) })), [duet?.sides]);
  const candidates = useCandidates(bench, asked, 2);
  const { draft, fresh: pair, lanes, names, nameOf, panel, setPanel, toggle } = candidates;
  const [wish, setWish] = useState(wishes.get(slug) ?? plainWish);
  const list = useQuery({
    queryKey: keys.duets(slug),
    queryFn: () => server.send(duets.list, { slug }),
    staleTime: 0,
  });
  useFocusKept(view);

  const put = (next: Duet) => {
    client.setQueryData(keys.duet(next.id), next);
    void client.invalidateQueries({ queryKey: keys.duet(next.id) });
    void client.invalidateQueries({ queryKey: keys.duets(slug) });
  };
  const beginning = useChange("The duet", async () => {
    await draft.save();
    const { mostPrice = null, mostTokens = null, ...rest } = wish;
    const body = { ...rest, mostPrice, mostTokens, sides: pair.map(({ base, content }) => ({ base, content })) };
    const made = await liveReplies.askAll(() => server.send(duets.make, { slug, body }), repliesOf);
    put(made);
    void client.invalidateQueries({ queryKey: keys.app(slug) });
    router.replace(`/apps/${slug}/compare?duet=${made.id}`);
  });
  const changing = useChange("The duet", async (change: () => Promise<Duet>) => {
    put(await liveReplies.askAll(change, repliesOf));
  });
  const naming = useChange(
    "The name",
    (name: string) => server.send(duets.name, { id: duet?.id ?? "", body: { name: name.trim() || null } }),
    [keys.duet(duet?.id ?? ""), keys.duets(slug)],
  );
  const changeWish = (change: Partial<Wish>) => {
    const next = { ...wish, ...change };
    wishes.set(slug, next);
    setWish(next);
  };
  const keepLanes = () => {
    if (duet) chooseLanes(slug, freshOf(duet));
  };
  const beginAnew = () => {
    if (!duet) return;
    keepLanes();
    const { opening, cue, opener, rounds, mostPrice, mostTokens } = duet;
    wishes.set(slug, {
      ...{ opening, cue, opener, rounds },
      mostPrice: mostPrice ?? undefined,
      mostTokens: mostTokens ?? undefined,
    });
    router.push(`/apps/${slug}/compare?duet=new`);
  };
  const stop = () => duet && changing.run(() => server.send(duets.stop, { id: duet.id }));
  useKeys("compare", {
    new: () => router.push(`/apps/${slug}/compare`),
    lane: (at) => {
      const lane = pair[at];
      if (duet || !lane) return false;
      toggle(lane.key);
    },
    find: () => router.push(`/apps/${slug}/history?find`),
    close: () => (duet && !duet.ended ? void stop() : false),
  });
  const problem = [beginning, changing, naming].find((each) => each.problem)?.problem;
  const common = { slug, lanes, panel, saved: list.data?.duets.length ?? 0, onPanel: toggle, onOtherwise: keepLanes };
  return (
    <main className={styles.view} ref={view}>
      <h1 className="unseen">Two candidates of {app.name} in conversation</h1>
      {duet ? (
        <TalkedSentence
          {...common}
          said={`${duet.ended ? "Had" : "Has"} ${laneSaid(lanes[0] as Spoken)} and ${laneSaid(lanes[1] as Spoken)} talk to each other.`}
          name={duet.name}
          onName={naming.run}
          onAnew={beginAnew}
        />
      ) : (
        <DuetSentence {...common} {...{ names, wish }} onWish={changeWish} />
      )}
      {panel === "list" && (
        <DuetList
          slug={slug}
          all={list.data?.duets ?? []}
          open={duet?.id}
          onDeleted={(id) => id === duet?.id && router.replace(`/apps/${slug}/compare?duet=new`)}
          onClose={() => setPanel(undefined)}
        />
      )}
      {!duet && <CandidatePanel {...{ bench, candidates }} fewest={2} />}
      {problem && <ProblemNote problem={problem} />}
      <SheetFrame end={duet ? `${duet.utterances.length}` : "new"}>
        {duet ? (
          <Fallible what="this duet">
            <Script duet={duet} names={names} nameOf={nameOf} />
          </Fallible>
        ) : (
          <>
            {lanes.map((lane, at) => (
              <SheetRow key={lane.key} tone={at === 0 ? "app" : "visitor"} label={`${names[at]}, has not spoken yet`}>
                <div className={styles.head}>
                  <b>{names[at]}</b>{" "}
                  <span>{laneAbout(lane, lane.base === "live" ? app.liveRevision : undefined, nameOf)}</span>
                </div>
              </SheetRow>
            ))}
            <p className={styles.empty}>
              Nothing is said yet. Each takes the other for its visitor. Give each a prompt of its own: unfold it above.
            </p>
          </>
        )}
      </SheetFrame>
      {duet ? (
        <DuetFoot
          {...{ slug, duet, names }}
          isBusy={changing.isRunning}
          onStop={() => void stop()}
          onResume={(rounds) =>
            changing.run(() =>
              server.send(duets.resume, {
                id: duet.id,
                body: { rounds, mostPrice: duet.mostPrice, mostTokens: duet.mostTokens },
              }),
            )
          }
          onPutIn={(to, text) => changing.run(() => server.send(duets.putIn, { id: duet.id, body: { to, text } }))}
        />
      ) : (
        <div className={composer.composer}>
          <div className={composer.cost} data-focus="home">
            <span className={styles.push}>
              A duet ends after its rounds, when both say goodbye, or when it goes in circles.
            </span>
            <Button type="primary" autoFocus disabled={beginning.isRunning} onClick={() => beginning.run()}>
              Let them talk
            </Button>
          </div>
        </div>
      )}
    </main>
  );
}

/** All that was said, and what waits to be told. */
function Script({ duet, names, nameOf }: { duet: Duet; names: readonly string[]; nameOf: (of: string) => string }) {
  const { utterances, sides, waiting, ended, rounds } = duet;
  return (
    <>
      {utterances.map((utterance) => {
        const side = sides[utterance.side];
        return (
          <UtteranceRow
            key={utterance.number}
            utterance={utterance}
            round={utterance.number % 2 === 1 ? String((utterance.number + 1) / 2) : undefined}
            name={names[utterance.side] ?? ""}
            about={side ? laneAbout(side, side.revision, nameOf) : ""}
          />
        );
      })}
      {waiting.map(({ side, text }, at) => (
        <WordRow key={`${at} ${text}`} to={names[side] ?? ""} text={text} waits />
      ))}
      {ended && <p className={styles.empty}>{endingWords(ended, rounds)}</p>}
    </>
  );
}

function freshOf({ sides }: Duet): NewLane[] {
  return sides.map(({ base, content, changedFrom }, at) => ({ key: String(at), base, content, changedFrom }));
}
