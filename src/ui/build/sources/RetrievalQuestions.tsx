import { Button, Input } from "antd";
import { type FormEvent, useState } from "react";
import { type RetrievalQuestion, type RetrievalRun, retrieval } from "@/contract/retrieval";
import { longestQuestion, longestQuote } from "@/core/sources/retrieval";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { count, many } from "../../shared/format";
import { NumberValue } from "../../shared/inline/NumberValue";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import sentences from "../../shared/sentences/sentences.module.css";
import { useChange } from "../../shared/use-change";
import styles from "./RetrievalTest.module.css";

/** Questions that are listed before the rest is asked for. */
const mostShown = 30;

/** The questions, and where more of them come from: typed, from marks, proposed by the model and weeded. */
export function RetrievalQuestions({
  slug,
  questions,
  run,
  tried,
}: {
  slug: string;
  questions: readonly RetrievalQuestion[];
  /** What came of asking them, the last time. */
  run: RetrievalRun | undefined;
  /** A question that is tried, to begin with. */
  tried: string;
}) {
  const touches = [keys.retrieval(slug), keys.jobs];
  const [adds, setAdds] = useState(false);
  const [showsAll, setShowsAll] = useState(false);
  const [wanted, setWanted] = useState(10);
  const marks = useChange("Looking at the marks", () => server.send(retrieval.fromMarks, { slug }), touches);
  const [fromMarks, setFromMarks] = useState<number>();
  const proposing = useChange(
    "Proposing questions",
    () => server.send(retrieval.propose, { slug, body: { count: wanted } }),
    touches,
  );
  const changing = useChange(
    "The question",
    ({ id, isAsked }: { id: string; isAsked: boolean }) => server.send(retrieval.change, { id, body: { isAsked } }),
    touches,
  );
  const deleting = useChange("Deleting it", (id: string) => server.send(retrieval.delete, { id }), touches);
  // what waits to be weeded stands first
  const sorted = [...questions].sort((a, b) => Number(a.isAsked) - Number(b.isAsked));
  const waiting = questions.filter(({ isAsked }) => !isAsked).length;
  const problem = marks.problem ?? proposing.problem ?? changing.problem ?? deleting.problem;
  return (
    <div>
      <div className={sentences.under}>
        <Action aria-expanded={adds} onClick={() => setAdds(!adds)}>
          add a question
        </Action>
        <Action
          onClick={async () => {
            const found = await marks.done();
            if (found.ok) setFromMarks(found.value.added);
          }}
        >
          from replies marked as good
        </Action>
        <span>
          <Action onClick={() => proposing.run()}>have the model propose</Action>{" "}
          <NumberValue
            label="Questions that the model proposes"
            value={wanted}
            min={1}
            max={60}
            onChange={(next) => next !== undefined && setWanted(next)}
          />{" "}
          (one call each)
        </span>
        {fromMarks !== undefined && <span role="status">{many(fromMarks, "question")} from marks.</span>}
        {waiting > 0 && <span role="status">{many(waiting, "question")} to be weeded: they are not asked yet.</span>}
      </div>
      {problem && <ProblemNote problem={problem} />}
      {adds && <NewQuestion slug={slug} tried={tried} />}
      <ol className={styles.questions} aria-label="Questions">
        {sorted.slice(0, showsAll ? undefined : mostShown).map((each) => (
          <li key={each.id} data-asked={each.isAsked}>
            <div>
              {each.question}
              <small>
                “{each.quote}” {each.title}
                {!each.isThere && <b> does not say that, or is not read yet: it is not asked</b>}
              </small>
            </div>
            <span>{placeIn(run, each.id)}</span>
            <span>
              {each.isAsked ? (
                each.comes !== "typed" && (
                  <Action onClick={() => changing.run({ id: each.id, isAsked: false })}>do not ask it</Action>
                )
              ) : (
                <Action onClick={() => changing.run({ id: each.id, isAsked: true })}>ask it</Action>
              )}{" "}
              <Action aria-label={`delete: ${each.question}`} onClick={() => deleting.run(each.id)}>
                delete
              </Action>
            </span>
          </li>
        ))}
      </ol>
      {sorted.length > mostShown && (
        <Action onClick={() => setShowsAll(!showsAll)}>
          {showsAll ? "fold them" : `${count(sorted.length - mostShown)} more`}
        </Action>
      )}
    </div>
  );
}

/** At which place a question found its passage with the documents as they were cut first, and by everything there is. */
function placeIn(run: RetrievalRun | undefined, id: string): string {
  const at = run?.asked.findIndex((each) => each.id === id) ?? -1;
  const [cut] = run?.cuts ?? [];
  const results = run?.results.filter(({ size, overlap }) => size === cut?.size && overlap === cut?.overlap) ?? [];
  const place = results.at(-1)?.places[at];
  if (at < 0 || place === undefined) return "";
  return place === null ? "not found" : `at place ${place}`;
}

/** A question that is typed, with the words that answer it. */
function NewQuestion({ slug, tried }: { slug: string; tried: string }) {
  const [question, setQuestion] = useState(tried.slice(0, longestQuestion));
  const [quote, setQuote] = useState("");
  const adding = useChange(
    "Adding it",
    () => server.send(retrieval.add, { slug, body: { question: question.trim(), quote: quote.trim() } }),
    [keys.retrieval(slug)],
  );
  const isWhole = question.trim() !== "" && quote.trim() !== "";
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (!isWhole || !(await adding.done()).ok) return;
    setQuestion("");
    setQuote("");
  };
  return (
    <form className={styles.form} onSubmit={(event) => void submit(event)}>
      <Input
        size="small"
        autoFocus
        aria-label="Question"
        placeholder="a question, as a visitor would ask it"
        maxLength={longestQuestion}
        value={question}
        onChange={(event) => setQuestion(event.target.value)}
      />
      <Input
        size="small"
        aria-label="Words of the document that answer it"
        placeholder="words of the document that answer it, as they stand there"
        maxLength={longestQuote}
        value={quote}
        onChange={(event) => setQuote(event.target.value)}
      />
      <Button size="small" htmlType="submit" disabled={!isWhole} loading={adding.isRunning}>
        Add it
      </Button>
      {adding.problem && <ProblemNote problem={adding.problem} />}
    </form>
  );
}
