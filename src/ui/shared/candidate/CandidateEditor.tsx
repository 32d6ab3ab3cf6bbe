import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { lazy, Suspense, useState } from "react";
import type { Provider } from "@/contract/providers";
import { revisions } from "@/contract/revisions";
import type { LaneBase } from "@/core/comparing/lane";
import { type Content, contentSchema, sameContent } from "@/core/revision/content";
import { Action } from "../Action";
import { server } from "../api";
import { ContentChange } from "../ContentChange";
import { ChoiceValue } from "../inline/ChoiceValue";
import { Unfolds } from "../inline/Unfolds";
import { keys } from "../queries";
import { MemoryValue } from "../sentences/MemoryValue";
import { ModelSentence } from "../sentences/ModelSentence";
import sentences from "../sentences/sentences.module.css";
import styles from "./candidate.module.css";
import type { Spoken } from "./candidate-words";

const PromptEditor = lazy(() => import("../editor/PromptEditor"));

interface Props {
  slug: string;
  candidate: Spoken;
  /** What the live revision and the draft are now. */
  live: Content;
  draft: Content;
  providers: readonly Provider[];
  nameOf: (provider: string) => string;
  /** Whether it was asked already: then a change takes effect when it is said so, since it is asked anew. */
  isAsked: boolean;
  onChange: (candidate: Spoken) => void;
  onLeave: (() => void) | undefined;
}

/** A candidate, in sentences: what it was chosen as, and what is other in it. */
export function CandidateEditor({
  slug,
  candidate,
  live,
  draft,
  providers,
  nameOf,
  isAsked,
  onChange,
  onLeave,
}: Props) {
  const [edited, setEdited] = useState<Spoken>(candidate);
  const [showsPrompt, setShowsPrompt] = useState(false);
  const { data } = useQuery({
    queryKey: [...keys.app(slug), "revisions", "choices"],
    queryFn: () => server.send(revisions.list, { slug }),
  });
  const set = (next: Spoken) => {
    setEdited(next);
    if (!isAsked) onChange(next);
  };
  const { base, content, changedFrom } = edited;
  const was = changedFrom ?? content;
  const edit = (change: Partial<Content>) => {
    const next = tidy({ ...content, ...change });
    set({ base, content: next, changedFrom: sameContent(was, next) ? null : was });
  };
  const choose = (next: string) => {
    const of: LaneBase = next === "live" || next === "draft" ? next : Number(next);
    const chosen =
      of === "live" ? live : of === "draft" ? draft : data?.revisions.find(({ number }) => number === of)?.content;
    if (chosen) set({ base: of, content: chosen, changedFrom: null });
  };
  return (
    <>
      <p className={sentences.sentence}>
        Begins with{" "}
        <ChoiceValue
          label="What the candidate is"
          value={String(base)}
          options={[
            { value: "live", label: "the live revision" },
            { value: "draft", label: "the draft" },
            ...(data?.revisions ?? []).map(({ number }) => ({ value: String(number), label: `revision ${number}` })),
            ...(typeof base === "number" && !data?.revisions.some(({ number }) => number === base)
              ? [{ value: String(base), label: `revision ${base}` }]
              : []),
          ]}
          onChange={choose}
        />
        , carries <MemoryValue memory={content.memory} budget={2_000} onChange={(memory) => edit({ memory })} /> and has{" "}
        <Unfolds isOpen={showsPrompt} onClick={() => setShowsPrompt(!showsPrompt)}>
          {was.prompt === content.prompt ? "its prompt" : "another prompt"}
        </Unfolds>
        .
      </p>
      {showsPrompt && (
        <div className={styles.prompt}>
          <Suspense fallback={<div className={styles.prompt} aria-busy="true" />}>
            <PromptEditor
              text={content.prompt}
              names={Object.keys({ ...content.variables, ...content.samples })}
              onChange={(prompt) => edit({ prompt })}
              onLeave={() => setShowsPrompt(false)}
            />
          </Suspense>
        </div>
      )}
      <ModelSentence content={content} edit={edit} providers={providers} />
      {changedFrom && <ContentChange before={changedFrom} after={content} nameOf={nameOf} />}
      <div className={styles.acts}>
        {isAsked && (
          <Button
            disabled={candidate.base === base && sameContent(candidate.content, content)}
            onClick={() => onChange(edited)}
          >
            Ask this one instead
          </Button>
        )}
        {changedFrom && (
          <Action onClick={() => set({ base, content: changedFrom, changedFrom: null })}>take all changes back</Action>
        )}
        {onLeave && <Action onClick={onLeave}>leave it out</Action>}
      </div>
    </>
  );
}

/** A content without the members that say nothing. */
function tidy(content: Content): Content {
  return contentSchema.parse(JSON.parse(JSON.stringify(content)));
}
