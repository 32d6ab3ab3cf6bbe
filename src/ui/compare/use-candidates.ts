import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import type { App } from "@/contract/apps";
import type { Provider } from "@/contract/providers";
import type { Content } from "@/core/revision/content";
import type { DraftStore } from "../build/draft/draft-store";
import { openApp } from "../build/open-app";
import { laneNames, type Spoken } from "../shared/candidate/candidate-words";
import { modelChoices } from "../shared/queries";
import { useStored } from "../shared/store";
import { firstLanes, type NewLane } from "./comparison";
import { useFreshLanes } from "./fresh-lanes";

/** What stands in each view of Compare: an app, those who may answer it, and what visitors get of it. */
export interface Bench {
  app: App;
  providers: Provider[];
  live: Content;
}

/** Candidates that stand in a view of Compare, each with a key. */
export type Standing = readonly (Spoken & { key: string })[];

/** The candidates of a view of Compare. */
export interface Candidates {
  draft: DraftStore;
  /** The draft as it stands. */
  content: Content;
  /** Whether the draft is what is live. */
  isSame: boolean;
  /** Those that are not asked yet. */
  fresh: readonly NewLane[];
  setFresh: (lanes: readonly NewLane[]) => void;
  /** Those that were asked, or else those that are to be. */
  lanes: Standing;
  names: readonly string[];
  nameOf: (provider: string) => string;
  /** What is unfolded under the sentence: a candidate by its key, or the list. */
  panel: string | undefined;
  setPanel: (panel: string | undefined) => void;
  /** Unfolds something, or folds it where it is. */
  toggle: (panel: string) => void;
}

/**
 * The candidates of a view of Compare, with what is unfolded of them.
 * @param asked those that were asked; undefined where they are still chosen
 * @param most how many the view can take
 */
export function useCandidates({ app, providers, live }: Bench, asked: Standing | undefined, most?: number): Candidates {
  const client = useQueryClient();
  const [open] = useState(() => openApp(app, client));
  const content = useStored(open.draft, (state) => state.content);
  const isSame = app.draftRevision === app.liveRevision;
  const [all, setAll] = useFreshLanes(app.slug, { live, draft: content }, () =>
    firstLanes(
      live,
      content,
      isSame,
      modelChoices(providers).map(({ provider, model }) => ({ provider: provider.slug, model: model.name })),
    ),
  );
  const fresh = all.slice(0, most);
  // those that this view can't take stay for the next one
  const setFresh = (next: readonly NewLane[]) => setAll([...next, ...(most === undefined ? [] : all.slice(most))]);
  const [panel, setPanel] = useState<string>();
  const nameOf = useMemo(
    () => (of: string) => providers.find((each) => each.slug === of)?.name ?? "a provider that is gone",
    [providers],
  );
  const lanes = asked ?? fresh;
  useEffect(() => {
    document.title = `Compare · ${app.name} · Unruly Finch`;
  }, [app.name]);
  return {
    ...{ draft: open.draft, content, isSame, fresh, setFresh, lanes, nameOf, panel, setPanel },
    names: laneNames(lanes, nameOf),
    toggle: (next) => setPanel(panel === next ? undefined : next),
  };
}
