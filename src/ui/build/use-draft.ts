import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { type App, apps } from "@/contract/apps";
import type { ProblemDocument } from "@/contract/problem";
import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { merge } from "@/core/revision/merge";
import { failureIn, server } from "../shared/api";
import { keys } from "../shared/queries";

/** Milliseconds after the last keystroke at which an edit is stored. */
const patience = 400;

/** An edit of a draft. */
interface Edit {
  content: Content;
  /** The draft that it began with, and its hash. */
  base: Content;
  draftHash: string;
}

/** Edits that could not be stored when their view was left, by app, so that they are there when it is opened again. */
const unstored = new Map<string, Edit>();

/** What stands where an edit was to be stored, since another place changed the same part of the draft. */
type Standing = NonNullable<ProblemDocument["draft"]>;

/** The draft as it is edited here: shown at once, stored a moment later, or when `save` is called. */
export interface EditedDraft {
  content: Content;
  edit: (change: Partial<Content>) => void;
  /** Stores what is not stored yet, one edit after another; throws where it can't. */
  save: () => Promise<void>;
  /** Stores what is not stored yet; what goes wrong stands in `failure`. */
  retry: () => Promise<void>;
  /** Why the last edit could not be stored. */
  failure: Problem | undefined;
  /** Chooses between both edits of one part, where there are two. */
  choose: ((which: "mine" | "theirs") => Promise<void>) | undefined;
  /** Puts the draft live, or other content. */
  putLive: (other?: Content) => Promise<void>;
}

export function useDraft(app: App): EditedDraft {
  const { slug } = app;
  const client = useQueryClient();
  const left = unstored.get(slug);
  const [content, setContent] = useState(left?.content ?? app.draft);
  const [failure, setFailure] = useState<Problem>();
  const [standing, setStanding] = useState<Standing>();
  /** What is edited, and the stored draft that it began with. */
  const current = useRef<Edit>(left ?? { content: app.draft, base: app.draft, draftHash: app.draftHash });
  const isUnsaved = useRef(left !== undefined);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  /** The save before, which the next one waits for. */
  const last = useRef<Promise<void>>(Promise.resolve());

  const saveNow = useCallback(async () => {
    const { content, draftHash } = current.current;
    if (!isUnsaved.current) return;
    isUnsaved.current = false;
    try {
      const stored = await server.send(apps.setDraft, { slug, body: { content, draftHash } });
      client.setQueryData(keys.app(slug), stored);
      // what another place changed meanwhile comes along with what was written since
      const merged = merge(content, stored.draft, current.current.content);
      if (merged.kind === "merged") {
        current.current = { content: merged.content, base: stored.draft, draftHash: stored.draftHash };
        setContent(merged.content);
      }
      unstored.delete(slug);
      setFailure(undefined);
      setStanding(undefined);
    } catch (error) {
      isUnsaved.current = true;
      unstored.set(slug, current.current);
      throw error;
    }
  }, [slug, client]);

  const save = useCallback((): Promise<void> => {
    clearTimeout(timer.current);
    const before = last.current;
    last.current = Promise.allSettled([before]).then(saveNow);
    return last.current;
  }, [saveNow]);

  const retry = useCallback(async () => {
    try {
      await save();
    } catch (error) {
      const why = failureIn(error, "The draft").problem;
      setStanding(why.draft);
      setFailure({ ...why, detail: `The draft is not stored. ${why.detail}` });
    }
  }, [save]);

  const edit = useCallback(
    (change: Partial<Content>) => {
      current.current = { ...current.current, content: { ...current.current.content, ...change } };
      isUnsaved.current = true;
      setContent(current.current.content);
      clearTimeout(timer.current);
      timer.current = setTimeout(retry, patience);
    },
    [retry],
  );

  useEffect(() => {
    // what could not be stored before is tried again now, and what was edited is stored when the view is left
    void retry();
    return () => void retry();
  }, [retry]);

  const choose = async (which: "mine" | "theirs") => {
    if (!standing) return;
    const { base, content } = current.current;
    const merged = merge(base, standing.content, content, which === "mine" ? "edited" : "stored");
    if (merged.kind !== "merged") return;
    current.current = { content: merged.content, base: standing.content, draftHash: standing.hash };
    setContent(merged.content);
    await retry();
  };

  const putLive = useCallback(
    async (other?: Content) => {
      await save();
      const body = { content: other ?? current.current.content };
      client.setQueryData(keys.app(slug), await server.send(apps.putLive, { slug, body }));
    },
    [slug, client, save],
  );

  return { content, edit, save, retry, failure, choose: standing && choose, putLive };
}
