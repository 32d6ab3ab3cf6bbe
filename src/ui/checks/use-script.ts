import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { type CheckScript, checks } from "@/contract/checks";
import type { Problem } from "@/core/problem/problem";
import { problemIn, server } from "../shared/api";
import { keys } from "../shared/queries";
import { keptTexts, useKeptText } from "../shared/use-kept-text";

/** Milliseconds of rest after which what was typed is saved. */
const rest = 800;

/** A script that is edited: what is typed is kept by the browser from letter to letter, and saved at each rest. */
export interface EditedScript {
  text: string;
  isSaved: boolean;
  /** Why it could not be saved. */
  problem: Problem | undefined;
  edit(text: string): void;
  /** Saves what was typed, and resolves once it is. @throws never; `problem` tells */
  save(): Promise<boolean>;
  /** Where it was changed elsewhere: takes what stands there, or puts what was typed over it. */
  takeTheirs(): void;
  putMine(): Promise<boolean>;
}

/** @param script as it was read; undefined for one that is not there yet */
export function useScript(slug: string, name: string, script: CheckScript | undefined): EditedScript {
  const client = useQueryClient();
  const keptName = `finch.script.${slug}.${name}`;
  const kept = useKeptText(keptName);
  const [problem, setProblem] = useState<Problem>();
  // the text that was changed, by its hash
  const base = useRef<string | null>(script?.hash ?? null);
  const saving = useRef<Promise<boolean>>(Promise.resolve(true));
  const stored = script?.text ?? "";
  const hasTyped = kept !== "" && kept !== stored;
  // what is not being edited follows what stands there
  if (!hasTyped) base.current = script?.hash ?? null;

  const put = async (was: string | null): Promise<boolean> => {
    const text = keptTexts.read(keptName);
    if (text === "" || text === stored) return true;
    try {
      const saved = await server.send(checks.write, { slug, name, body: { text, was } });
      base.current = saved.hash;
      setProblem(undefined);
      client.setQueryData<{ scripts: CheckScript[] }>(
        keys.scripts(slug),
        (before) =>
          before && {
            ...before,
            scripts: [...before.scripts.filter((each) => each.name !== name), saved].sort((a, b) =>
              a.name < b.name ? -1 : 1,
            ),
          },
      );
      if (keptTexts.read(keptName) === text) keptTexts.write(keptName, "");
      return true;
    } catch (error) {
      setProblem(problemIn(error as Error, "The script"));
      return false;
    }
  };
  const save = () => {
    saving.current = saving.current.then(() => put(base.current));
    return saving.current;
  };
  const newest = useRef(save);
  newest.current = save;
  const waits = problem ? undefined : hasTyped && kept;
  useEffect(() => {
    if (!waits) return;
    const timer = setTimeout(() => void newest.current(), rest);
    return () => clearTimeout(timer);
  }, [waits]);
  return {
    text: hasTyped ? kept : stored,
    isSaved: !hasTyped,
    problem,
    edit(text) {
      // nothing is kept under an empty text: one that was emptied is a line
      keptTexts.write(keptName, text === "" ? "\n" : text);
      // what failed is tried again; what was changed elsewhere waits until one has chosen
      if (problem?.kind !== "conflict") setProblem(undefined);
    },
    save,
    takeTheirs() {
      keptTexts.write(keptName, "");
      setProblem(undefined);
      void client.invalidateQueries({ queryKey: keys.scripts(slug) });
    },
    async putMine() {
      const { scripts } = await server.send(checks.scripts, { slug });
      return put(scripts.find((each) => each.name === name)?.hash ?? null);
    },
  };
}
