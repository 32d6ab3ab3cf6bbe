"use client";

import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import Link from "next/link";
import { useEffect, useState } from "react";
import type { ListedConversation } from "@/contract/conversations";
import { benchConversations } from "@/contract/conversations";
import { server } from "../shared/api";
import { count, many, moment } from "../shared/format";
import { cameFrom } from "../shared/origins";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { liveReplies } from "../shared/use-live-reply";
import styles from "./HistoryView.module.css";
import { Strip } from "./Strip";

/** The stored conversations of an app, each as one strip of its turns, the last touched first. */
export function HistoryView({ slug }: { slug: string }) {
  const client = useQueryClient();
  const query = useInfiniteQuery({
    queryKey: keys.conversations(slug),
    queryFn: ({ pageParam }) => server.send(benchConversations.list, { slug, before: pageParam }),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (page) => page.before ?? undefined,
  });
  useEffect(
    () => liveReplies.onTurn(() => void client.invalidateQueries({ queryKey: keys.conversations(slug) })),
    [client, slug],
  );

  const conversations = query.data?.pages.flatMap((page) => page.conversations) ?? [];
  const longest = Math.max(
    1,
    ...conversations.map(({ turns }) => turns.reduce((sum, turn) => sum + turn.visitor + turn.reply, 0)),
  );
  return (
    <main className={styles.view} aria-busy={query.isPending}>
      <h1 className="unseen">History</h1>
      {query.error && <ProblemNote problem={query.error.problem} />}
      {query.isSuccess && conversations.length === 0 && (
        <p className={styles.empty}>
          No conversation yet. <Link href={`/apps/${slug}/build?conversation=new`}>Begin one</Link>
        </p>
      )}
      {conversations.length > 0 && <Legend />}
      <ol className={styles.list}>
        {conversations.map((conversation) => (
          <ConversationRow key={conversation.id} slug={slug} conversation={conversation} longest={longest} />
        ))}
      </ol>
      {query.hasNextPage && (
        <div className={styles.more}>
          <Button loading={query.isFetchingNextPage} onClick={() => void query.fetchNextPage()}>
            Show older ones
          </Button>
        </div>
      )}
    </main>
  );
}

function Legend() {
  return (
    <p className={styles.legend}>
      A strip is a conversation: its length is in tokens, <i data-part="visitor" /> what the visitor said,{" "}
      <i data-part="reply" /> what the app answered. <b>✕</b> failed, <b>◣</b> cut or stopped, <b>…</b> arriving.
    </p>
  );
}

function ConversationRow({
  slug,
  conversation,
  longest,
}: {
  slug: string;
  conversation: ListedConversation;
  longest: number;
}) {
  const { id, opening, origin, client: frontEnd, updatedAt, turns, turnCount, tokens } = conversation;
  const client = useQueryClient();
  const [isDeleted, setDeleted] = useState(false);
  const deletion = useChange("The deletion", async (deleted: boolean) => {
    await server.send(deleted ? benchConversations.hide : benchConversations.restore, { id });
    setDeleted(deleted);
    client.removeQueries({ queryKey: keys.line(id) });
  });
  if (isDeleted)
    return (
      <li className={styles.row}>
        <p className={styles.deleted}>
          Deleted: {opening}{" "}
          <button type="button" className="link" onClick={() => deletion.run(false)}>
            undo
          </button>
        </p>
      </li>
    );
  return (
    <li className={styles.row}>
      <Link className={styles.open} href={`/apps/${slug}/build?conversation=${id}`}>
        <span className={styles.opening}>{opening}</span>
        <Strip turns={turns} longest={longest} />
      </Link>
      <div className={styles.side}>
        <div>
          {moment(updatedAt, Date.now())} · {cameFrom({ origin, client: frontEnd })}
        </div>
        <div>
          {many(turnCount, "turn")} · {count(tokens)} tokens ·{" "}
          <button type="button" className="link" aria-label={`Delete: ${opening}`} onClick={() => deletion.run(true)}>
            delete
          </button>
        </div>
      </div>
      {deletion.problem && <ProblemNote problem={deletion.problem} />}
    </li>
  );
}
