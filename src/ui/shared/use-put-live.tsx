import type { QueryKey } from "@tanstack/react-query";
import Link from "next/link";
import { type ReactNode, useRef } from "react";
import type { Content } from "@/core/revision/content";
import { Action } from "./Action";
import { ProblemNote } from "./ProblemNote";
import { useChange } from "./use-change";

/**
 * Making a content live. Where checks of it are worse it is asked first: in the note, which is shown where it was asked for.
 * @param put makes it live; undefined stands for the draft
 */
export function usePutLive(
  slug: string,
  put: (content: Content | undefined, despite?: "worse") => Promise<unknown>,
  touches: readonly QueryKey[] = [],
): { run: (content: Content | undefined) => void; note: ReactNode } {
  const asked = useRef<Content>(undefined);
  const putting = useChange("Making it live", (despite: "worse" | undefined) => put(asked.current, despite), touches);
  const { problem, run, putAside } = putting;
  return {
    run(content) {
      asked.current = content;
      run(undefined);
    },
    note: problem && (
      <ProblemNote problem={problem}>
        {problem.kind === "worse" && (
          <>
            <Link href={`/apps/${slug}/checks`}>see them in Checks</Link>
            <Action onClick={() => run("worse")}>make it live all the same</Action>
            <Action onClick={putAside}>leave it</Action>
          </>
        )}
      </ProblemNote>
    ),
  };
}
