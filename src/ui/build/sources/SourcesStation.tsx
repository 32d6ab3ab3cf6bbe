import { lazy, Suspense, useState } from "react";
import { filledSources, plainSources, type Sources } from "@/core/sources/sources";
import { many } from "../../shared/format";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { LinesValue } from "../../shared/inline/LinesValue";
import { NumberValue } from "../../shared/inline/NumberValue";
import { TextValue } from "../../shared/inline/TextValue";
import { Unfolds } from "../../shared/inline/Unfolds";
import sentences from "../../shared/sentences/sentences.module.css";
import type { StationScene } from "../stations/station";
import { Documents } from "./Documents";
import { FoundPassages } from "./FoundPassages";
import styles from "./SourcesStation.module.css";
import { useMaker } from "./use-maker";
import { useMakers, type VectorModel } from "./use-makers";
import { sourcesIn, useSources } from "./use-sources";
import { VectorsSentence } from "./VectorsSentence";

/** Fetched when it is opened. */
const RetrievalTest = lazy(() => import("./RetrievalTest"));

/** Stands for no model, where models are chosen by provider and name. */
const byWords = "";
const keyOf = ({ provider, model }: VectorModel) => `${provider} ${model}`;

function partsOf(maker: VectorModel | undefined): Sources["meaning"] {
  return maker && { provider: maker.provider, model: maker.model };
}

const without: Sources = { documents: [] };

/** What the app answers from: the sentence, its documents, and what a question finds in them. */
export default function SourcesStation({ app, draft, ahead, findings, onOpenDocument }: StationScene) {
  const [showsWords, setShowsWords] = useState(false);
  const [testsRetrieval, setTestsRetrieval] = useState(false);
  const query = useSources(app.slug);
  const all = sourcesIn(query);
  const sources = draft.content.sources ?? without;
  const filled = filledSources(sources);
  const change = (part: Partial<Sources>) => draft.edit({ sources: plainSources({ ...sources, ...part }) });
  const count = sources.documents.length;
  const maker = useMaker(draft.content);
  const { meaning } = sources;
  const makers = useMakers(meaning);
  const vectors = query.data?.vectors;
  return (
    <div className={styles.station}>
      {count === 0 ? (
        <div className={sentences.sentence}>
          Answers from <b>no documents</b>: drop some below, or name an address.
        </div>
      ) : (
        <>
          <div className={sentences.sentence}>
            Answers from <b>{many(count, "document")}</b>, with the{" "}
            <NumberValue
              label="Passages at most"
              value={filled.best}
              min={1}
              max={50}
              onChange={(best) => change({ best })}
            />{" "}
            best passages, found by{" "}
            <ChoiceValue
              label="Whether passages are found by meaning, too"
              value={meaning ? keyOf(meaning) : byWords}
              options={[
                { value: byWords, label: "the words" },
                ...makers.map((each) => ({ value: keyOf(each), label: `the words and the meaning (${each.label})` })),
              ]}
              onChange={(key) => change({ meaning: partsOf(makers.find((each) => keyOf(each) === key)) })}
            />{" "}
            of{" "}
            <ChoiceValue
              label="What passages are looked for with"
              value={sources.query ?? "message"}
              options={[
                { value: "message", label: "the message" },
                { value: "self-contained", label: "the message made self-contained" },
              ]}
              onChange={(query) => change({ query: query === "self-contained" ? query : undefined })}
            />
            , within{" "}
            <NumberValue
              label="Tokens that all passages may have"
              value={filled.within}
              min={1}
              max={1_000_000}
              onChange={(within) => change({ within })}
            />{" "}
            tokens, carried{" "}
            <ChoiceValue
              label="How passages are carried"
              value={sources.as ?? "prompt"}
              options={[
                { value: "prompt", label: "in the prompt" },
                { value: "message", label: "with the message" },
              ]}
              onChange={(as) => change({ as: as === "message" ? as : undefined })}
            />
            ;{" "}
            <ChoiceValue
              label="Whether it may answer from elsewhere"
              value={sources.beyond ? "beyond" : "only"}
              options={[
                { value: "only", label: "only from these" },
                { value: "beyond", label: "from elsewhere too" },
              ]}
              onChange={(which) => change({ beyond: which === "beyond" ? true : undefined })}
            />
            {!sources.beyond && (
              <>
                , and says{" "}
                <TextValue
                  label="How it says that they hold no answer"
                  value={filled.unknown}
                  maxLength={500}
                  onChange={(unknown) => change({ unknown: unknown.trim() === "" ? undefined : unknown })}
                />{" "}
                where they hold no answer
              </>
            )}
            .
          </div>
          <div className={`${sentences.under} ${styles.under}`}>
            <span>
              cut at headings, into passages of{" "}
              <NumberValue
                label="Tokens of a passage"
                value={filled.size}
                min={20}
                max={4_000}
                onChange={(size) => change({ size })}
              />{" "}
              tokens,{" "}
              <NumberValue
                label="Tokens that a passage repeats"
                value={filled.overlap}
                min={0}
                max={1_000}
                onChange={(overlap) => change({ overlap })}
              />{" "}
              over
            </span>
            {vectors && <VectorsSentence slug={app.slug} vectors={vectors} />}
            <Unfolds isOpen={testsRetrieval} onClick={() => setTestsRetrieval(!testsRetrieval)}>
              test retrieval
            </Unfolds>
            <Unfolds isOpen={showsWords} onClick={() => setShowsWords(!showsWords)}>
              what the model is told of passages
            </Unfolds>
          </div>
          {showsWords && (
            <div className={styles.words}>
              <LinesValue
                label="Words that explain passages and their marks"
                rows={[3, 8]}
                maxLength={10_000}
                value={filled.words}
                onChange={(words) => change({ words: words.trim() === "" ? undefined : words })}
              />
            </div>
          )}
        </>
      )}
      {testsRetrieval && count > 0 && (
        <Suspense fallback={<div aria-busy="true" />}>
          <RetrievalTest slug={app.slug} question={findings.next.question} />
        </Suspense>
      )}
      <div className={styles.columns}>
        <Documents {...{ app, all, query, sources, maker }} onChange={change} onOpen={onOpenDocument} />
        {count > 0 && <FoundPassages {...{ findings, ahead, all }} content={draft.content} onOpen={onOpenDocument} />}
      </div>
    </div>
  );
}
