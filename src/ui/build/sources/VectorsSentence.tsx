import { sources, type VectorsStanding } from "@/contract/sources";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { ConfirmAction } from "../../shared/Confirm";
import { count, many, price } from "../../shared/format";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";

/** How the vectors of the passages stand: how many are made, what is missing would cost, and what failed. */
export function VectorsSentence({ slug, vectors }: { slug: string; vectors: VectorsStanding }) {
  const { run, done } = useChange(
    "Making vectors",
    (body: { anew?: true }) => server.send(sources.makeVectors, { slug, body }),
    [keys.sources(slug), keys.jobs, keys.found(slug)],
  );
  const { passages, made, problem } = vectors;
  const isWhole = made === passages;
  return (
    <span>
      {isWhole ? (
        <>vectors of all {many(passages, "passage")} are made, and kept;</>
      ) : (
        <>
          vectors of {count(made)} of {many(passages, "passage")} are made; the rest is about{" "}
          {many(vectors.tokens, "token")}
          {vectors.isPriced ? `, ${price(vectors.price, vectors.currency)}` : ", price not set"}
        </>
      )}
      {problem && (
        <span data-standing="bad" role="alert">
          {" "}
          {problem.detail} {problem.advice}
        </span>
      )}
      {!isWhole && problem && (
        <>
          {" "}
          <Action onClick={() => run({})}>go on making them</Action>
        </>
      )}
      {made > 0 && (
        <>
          {" "}
          <ConfirmAction
            question="Make all vectors anew?"
            says="Those that are kept are deleted, and what they cost is paid again. Until they are made, passages are found by words alone."
            does="Make them anew"
            onDo={async () => (await done({ anew: true })).ok}
          >
            make them anew
          </ConfirmAction>
        </>
      )}
    </span>
  );
}
