import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { type Source, sources } from "@/contract/sources";
import type { Problem } from "@/core/problem/problem";
import type { FoundPassage } from "@/core/sources/found";
import { server } from "../../shared/api";
import { keys } from "../../shared/queries";
import { keptTexts } from "../../shared/use-kept-text";
import { liveReplies } from "../../shared/use-live-reply";

/** The documents of an app as they stand now; read again when one was read or cut. */
export function useSources(slug: string) {
  const client = useQueryClient();
  useEffect(
    () =>
      liveReplies.onChange((what) => {
        if (what !== slug) return;
        void client.invalidateQueries({ queryKey: keys.sources(slug) });
        void client.invalidateQueries({ queryKey: keys.found(slug) });
      }),
    [client, slug],
  );
  return useQuery({ queryKey: keys.sources(slug), queryFn: () => server.send(sources.list, { slug }) });
}

const none: Source[] = [];

export function sourcesIn(query: ReturnType<typeof useSources>): Source[] {
  return query.data?.sources ?? none;
}

/** Milliseconds without a letter after which is looked for what was typed. */
const rest = 180;

/**
 * What is typed under a name, once typing rests. It changes seldom, so that no keystroke draws more than its own field;
 * where it is not wanted it is empty, and nothing is drawn for it at all.
 */
export function useRestingText(name: string, isWanted: boolean): string {
  const [text, setText] = useState(() => (isWanted ? keptTexts.read(name).trim() : ""));
  useEffect(() => {
    if (!isWanted) return setText("");
    let timer: number | undefined;
    const take = () => setText(keptTexts.read(name).trim());
    take();
    const leave = keptTexts.subscribe(name, () => {
      window.clearTimeout(timer);
      timer = window.setTimeout(take, rest);
    });
    return () => {
      window.clearTimeout(timer);
      leave();
    };
  }, [name, isWanted]);
  return text;
}

/** Milliseconds after which is looked again for what could not be looked for in all that there is. */
const again = 1_500;

/** What a question finds in the documents of the draft. */
export interface Findings {
  question: string;
  /** The best first; undefined until it is known. */
  found: FoundPassage[] | undefined;
  /** Documents that are not read, or not cut, yet. */
  unready: readonly string[];
  /** Why it was looked for by words alone, where it was to be by meaning, too. */
  wordsAlone: Problem | undefined;
}

/** Finds what a question finds. @param draft stands for the draft as it is stored: where that changes it is looked for anew */
export function useFindings(
  slug: string,
  { question, draft, isWanted, hasWholes }: { question: string; draft: string; isWanted: boolean; hasWholes: boolean },
): Findings {
  const query = useQuery({
    queryKey: [...keys.found(slug), question, draft],
    queryFn: () => server.send(sources.find, { slug, question }),
    enabled: isWanted && (question !== "" || hasWholes),
    staleTime: 60_000,
    // what was told of as ready while this was asked for is in no answer yet
    refetchInterval: ({ state: { data } }) => (data && (data.unready.length > 0 || data.unmade) ? again : false),
    // what was found before stands until what is found now is there
    placeholderData: (before) => before,
  });
  const { found, unready = noIds, wordsAlone } = query.data ?? {};
  return { question, found: question === "" && !hasWholes ? undefined : found, unready, wordsAlone };
}

const noIds: string[] = [];
