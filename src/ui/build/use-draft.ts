import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import type { App } from "@/contract/apps";
import { apps } from "@/contract/apps";
import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/revision";
import { problemIn, server } from "../shared/api";
import { keys } from "../shared/queries";

/** Milliseconds after the last keystroke at which an edit is stored. */
const patience = 400;

/** Edits that could not be stored when their view was left, by app, so that they are there when it is opened again. */
const unstored = new Map<string, Content>();

/** The draft as it is edited here: shown at once, stored a moment later, or when `save` is called. */
export interface EditedDraft {
  content: Content;
  edit: (change: Partial<Content>) => void;
  /** Stores what is not stored yet. */
  save: () => Promise<void>;
  /** The same, with what goes wrong in `failure`. */
  retry: () => Promise<void>;
  /** Why the last edit could not be stored. */
  failure: Problem | undefined;
  /** Puts the draft live, or other content. */
  putLive: (other?: Content) => Promise<void>;
}

export function useDraft(app: App): EditedDraft {
  const client = useQueryClient();
  const left = unstored.get(app.slug);
  const [content, setContent] = useState(left ?? app.draft);
  const [failure, setFailure] = useState<Problem>();
  const unsaved = useRef<Content | null>(left ?? null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);

  const save = useCallback(async () => {
    clearTimeout(timer.current);
    const edited = unsaved.current;
    if (!edited) return;
    unsaved.current = null;
    try {
      client.setQueryData(
        keys.app(app.slug),
        await server.send(apps.setDraft, { slug: app.slug, body: { content: edited } }),
      );
      unstored.delete(app.slug);
      setFailure(undefined);
    } catch (error) {
      unsaved.current ??= edited;
      unstored.set(app.slug, unsaved.current);
      throw error;
    }
  }, [app.slug, client]);

  const retry = useCallback(async () => {
    try {
      await save();
    } catch (error) {
      const why = problemIn(error, "The draft");
      setFailure({ ...why, detail: `The draft is not stored. ${why.detail}` });
    }
  }, [save]);

  const edit = useCallback(
    (change: Partial<Content>) => {
      setContent((before) => {
        const next = { ...before, ...change };
        unsaved.current = next;
        return next;
      });
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

  const putLive = useCallback(
    async (other?: Content) => {
      await save();
      const body = { content: other ?? content };
      client.setQueryData(keys.app(app.slug), await server.send(apps.putLive, { slug: app.slug, body }));
    },
    [app.slug, client, content, save],
  );

  return { content, edit, save, retry, failure, putLive };
}
