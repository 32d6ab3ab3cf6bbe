import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { type App, appSchema } from "@/contract/apps";
import type { Content } from "@/core/revision/revision";
import { call } from "../shared/api";
import { keys } from "../shared/queries";

/** Milliseconds after the last keystroke at which an edit is stored. */
const patience = 400;

/** The draft as it is edited here: shown at once, stored a moment later, or when `save` is called. */
export interface EditedDraft {
  content: Content;
  edit: (change: Partial<Content>) => void;
  /** Stores what is not stored yet. */
  save: () => Promise<void>;
  putLive: () => Promise<void>;
}

export function useDraft(app: App): EditedDraft {
  const client = useQueryClient();
  const [content, setContent] = useState(app.draft);
  const unsaved = useRef<Content | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);

  const save = useCallback(async () => {
    clearTimeout(timer.current);
    const edited = unsaved.current;
    if (!edited) return;
    unsaved.current = null;
    try {
      client.setQueryData(
        keys.app(app.slug),
        await call("PUT", `/api/bench/apps/${app.slug}/draft`, appSchema, { content: edited }),
      );
    } catch (error) {
      unsaved.current ??= edited;
      throw error;
    }
  }, [app.slug, client]);

  const edit = useCallback(
    (change: Partial<Content>) => {
      setContent((before) => {
        const next = { ...before, ...change };
        unsaved.current = next;
        return next;
      });
      clearTimeout(timer.current);
      timer.current = setTimeout(() => save().catch(() => {}), patience);
    },
    [save],
  );

  useEffect(() => () => void save().catch(() => {}), [save]);

  const putLive = useCallback(async () => {
    await save();
    client.setQueryData(
      keys.app(app.slug),
      await call("PUT", `/api/bench/apps/${app.slug}/live`, appSchema, { content }),
    );
  }, [app.slug, client, content, save]);

  return { content, edit, save, putLive };
}
