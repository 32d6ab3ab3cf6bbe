"use client";

import Link from "next/link";
import { useSearchParams } from "next/navigation";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { HistoryCount } from "@/contract/conversations";
import { Action } from "../shared/Action";
import { count, many } from "../shared/format";
import { useFocusKept } from "../shared/keys/use-focus-kept";
import { useKeys } from "../shared/keys/use-keys";
import { ProblemNote } from "../shared/ProblemNote";
import { ChosenSentence } from "./ChosenSentence";
import { ConversationList } from "./ConversationList";
import { FilterSentence } from "./FilterSentence";
import { addressOf, filterIn, type HistoryFilter, isOpen } from "./filter";
import styles from "./HistoryView.module.css";
import { ImportSheet } from "./ImportSheet";
import { useDeletion } from "./use-deletion";
import { useHistory } from "./use-history";

/** The stored conversations of an app, filtered and searched, each as one strip of its turns; read in place. */
export function HistoryView({ slug }: { slug: string }) {
  const address = useSearchParams();
  const filter = useMemo(() => filterIn(address), [address]);
  const setFilter = useCallback((next: HistoryFilter) => {
    const written = addressOf(next);
    window.history.replaceState(null, "", written === "" ? window.location.pathname : `?${written}`);
  }, []);
  const view = useRef<HTMLElement>(null);
  const search = useRef<{ focus: () => void }>(null);
  useKeys("history", { find: () => search.current?.focus() });
  useFocusKept(view);
  const wantsToFind = address.has("find");
  useEffect(() => {
    if (wantsToFind) search.current?.focus();
  }, [wantsToFind]);
  const history = useHistory(slug, filter);
  const deletion = useDeletion(slug);
  const [isImporting, setImporting] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const shown = useMemo(
    () => history.conversations.filter(({ id }) => filter.deleted || !deletion.isGone(id)),
    [history.conversations, deletion, filter.deleted],
  );
  return (
    <main className={styles.view} aria-busy={history.isReading} ref={view}>
      <h1 className="unseen">History</h1>
      <FilterSentence slug={slug} filter={filter} onChange={setFilter} search={search} />
      <Legend found={history.found} hasWords={filter.words !== undefined} />
      <ChosenSentence
        slug={slug}
        filter={filter}
        {...{ chosen, setChosen, deletion }}
        found={history.found?.conversations ?? 0}
        onImport={() => setImporting(!isImporting)}
      />
      {isImporting && <ImportSheet slug={slug} onClose={() => setImporting(false)} />}
      {history.problem && (
        <div>
          <ProblemNote problem={history.problem} />
          <Action onClick={history.readAgain}>read it again</Action>
        </div>
      )}
      {history.isRead && shown.length === 0 && (
        <p className={styles.empty}>
          {isOpen(filter) ? (
            <>
              No conversation yet. <Link href={`/apps/${slug}/build?conversation=new`}>Begin one</Link>
            </>
          ) : (
            <>
              Nothing is found. <Action onClick={() => setFilter({})}>show all</Action>
            </>
          )}
        </p>
      )}
      {shown.length > 0 && (
        <ConversationList
          slug={slug}
          words={filter.words}
          areDeleted={filter.deleted !== undefined}
          conversations={shown}
          above={history.above}
          found={history.found?.conversations}
          longest={history.longest}
          onNearStart={history.readEarlier}
          onNearEnd={history.readMore}
          {...{ chosen, setChosen, deletion }}
        />
      )}
    </main>
  );
}

function Legend({ found, hasWords }: { found: HistoryCount | undefined; hasWords: boolean }) {
  return (
    <p className={styles.legend}>
      <span role="status">
        {found && (
          <>
            {found.conversations === found.of
              ? many(found.of, "conversation")
              : `${count(found.conversations)} of ${many(found.of, "conversation")}`}
            {hasWords && `, ${many(found.places, "place")}`}.{" "}
          </>
        )}
      </span>
      A strip is a conversation: its length is in tokens, <i data-part="visitor" /> what the visitor said,{" "}
      <i data-part="reply" /> what the app answered{hasWords && ", yellow a place with the words"}. <b>✕</b> failed,{" "}
      <b>◣</b> cut or stopped, <b>⌞</b> where lines part. Space chooses, Enter opens, / finds.
    </p>
  );
}
